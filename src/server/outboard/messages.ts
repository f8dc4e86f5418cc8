/** Texts of passes through outboard gear. */
export const passMessages = {
  title: (title: string, number: number) => `${title} (pass ${number})`,
  fileName: (stem: string, number: number) => `${stem} pass ${number}.wav`,
  framesMissing: 'some of what came back did not arrive here',
  tooShort: 'it ended before all had come back',
  diskFailed: (reason: string) => `it could not be saved (${reason})`,
  notUnderWay: 'no frames came for a while, or the app was ended',
  programme: 'this programme',
};
