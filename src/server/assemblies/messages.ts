/** Texts of records and books that are written, by file. */

export const writeBookMessages = {
  beyondTheEnd: 'it ends behind the end of the programme',
};

export const assemblyMessages = {
  isBeingWritten: 'another one of this line-up is being written',
};
