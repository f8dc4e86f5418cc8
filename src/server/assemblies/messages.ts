/** Texts of records that are written, by file. */

export const assemblyMessages = {
  isBeingWritten: 'another one of this line-up is being written',
};
