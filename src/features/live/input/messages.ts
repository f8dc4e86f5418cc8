/** Texts of inputs of the machine that the browser runs on. */
export const inputMessages = {
  input: 'Input of this machine',
  choose: 'Input',
  usual: 'Default input',
  connect: 'Connect',
  disconnect: 'Disconnect',
  asking: 'Your browser asks whether this page may listen.',
  explain:
    'Your browser will ask whether this page may listen. The sound is sent to this server only, without any processing, for as long as this window is open.',
  running: (device: string, channels: number, rate: string) =>
    `${device}, ${channels} ${channels === 1 ? 'channel' : 'channels'}, ${rate}. Keep this window open.`,
  turnOnFirst: 'Turn the line on first',
  elsewhere: 'It is sent by another window.',
  elsewhereNow: 'another window sends it now',
  noSound: 'the device gives no sound',
  unplugged: 'the input was unplugged, or given to another program',
  failed: (reason: string) => `Not connected: ${reason}.`,
};
