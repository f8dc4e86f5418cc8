/** Texts of the specs page, by component. */

export const specFormMessages = {
  nameAndSource: 'Name and source',
  name: 'Name',
  enterAName: 'Enter a name',
  source: 'Source',
  checkByHand: 'To check by hand, one requirement per line',
  cancel: 'Cancel',
  saveAsVersion: (version: number) => `Save as version ${version}`,
  enterANumber: 'A number, such as −23 or 0.5',
  notRequired: 'not required',
  newerVersion: (version: number) =>
    `Version ${version} was saved in another window meanwhile. Fields that you have not changed follow it; saving replaces the others.`,
};

export const specsScreenMessages = {
  fromPublishedDocuments: 'From published documents',
  commonPractice: 'Common practice',
  yourOwn: 'Your own',
  specs: 'Specs',
  aSpecToImport: 'A spec to import',
  importASpec: 'Import a spec',
  version: (version: number, spec: string) => `version ${version} · ${spec}`,
  edit: 'Edit',
  archive: 'Archive',
  makeACopy: 'Make a copy',
  exportJson: 'Export JSON',
  compareWith: 'Compare with',
  readOnly: 'Read-only. To change something, make a copy. Certificates keep the version that they were made with.',
  whatAsksFor: (name: string) => `What ${name} asks for`,
  compareVersion: (version: number) => `, version ${version}`,
  notRequired: 'not required',
  same: 'same',
};
