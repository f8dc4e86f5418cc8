/** Texts of taking in, by file. */
export const uploadMessages = {
  namesNothing: 'the file or its job has no name',
  mostBytes: (bytes: number) => `${Math.round(bytes / 1e9)} GB`,
  diskIsFull: 'the disk is full',
  diskFails: 'the disk fails',
};
