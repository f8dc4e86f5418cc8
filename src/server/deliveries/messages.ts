/** Texts of why a delivery cannot be made, decided about, or shown, by file. */

export const decideMessages = {
  nothingToApprove: 'only a file that is inside its spec, or was accepted, can be approved',
  nothingToDecide: 'only a file that misses its spec can be decided about',
};

export const deliveryRecordMessages = {
  isBeingWritten: 'another file of this row is being written',
};

export const predictMessages = {
  noLevel: (fileName: string) => `${fileName} has no level that gain can change`,
};

export const rowsMessages = {
  cannotBeTagged: 'its format cannot be written here, so its tags cannot either',
};

export const writeRowMessages = {
  olderThanTheSheet: 'this file is older than the sheet',
};

export const templatesMessages = {
  noRows: 'this programme has no rows to save as a template',
};

export const sheetSettingsMessages = {
  otherJob: 'a row or a programme is of another job',
};
