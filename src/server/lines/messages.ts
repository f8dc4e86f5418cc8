/** Texts of lines, as events say them. */
export const lineMessages = {
  lost: (reason: string) => `line lost: ${reason}`,
  framesLost: (frames: number, milliseconds: string) => `${frames} frames lost (${milliseconds} ms)`,
  mark: (number: number) => `mark ${number}`,
  on: 'on',
  off: 'off',
  reset: 'meters reset',
  paused: 'measuring paused',
  continued: 'measuring continued',
  recording: (fileName: string) => `recording ${fileName}`,
  otherInput: 'where a line comes from can be changed only while it is off',
  logColumns: ['time (UTC)', 'momentary (LUFS)', 'short-term (LUFS)', 'integrated (LUFS)', 'true peak (dBTP)', 'state'],
  notAnInput: 'this line does not come from an input of a browser',
  noFrames: 'whole frames of 1 to 24 channels are taken, of at most 4 MB',
  lineOn: 'a line that is on can’t be deleted: turn it off first',
};
