/** Texts of the desk before it has a programme. */

export const pageMessages = {
  dropMoreMixesAnywhere: 'Drop more mixes anywhere',
  chooseFiles: 'Choose files',
};
