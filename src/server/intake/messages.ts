/** Texts of the simulated intakes, by file. */

export const intakeMessages = {
  notFetched: 'its files could not be fetched',
  acceptsNothing: 'the intake accepts nothing at the moment',
  isElsewhere: (fileName: string) => `${fileName} is elsewhere, and this intake fetches only from its own machine`,
  isNotThere: (fileName: string) => `${fileName} is not there`,
  otherSize: (fileName: string, size: number, sizeBytes: number) =>
    `${fileName} has ${size} bytes, ${sizeBytes} were announced`,
  otherFile: (fileName: string) => `${fileName} is not the file that was announced: its SHA-256 is another`,
};

export const objectsMessages = {
  contentRangeNeeded: 'a Content-Range of bytes within the whole is needed',
  emptyPart: 'the part has no bytes',
};
