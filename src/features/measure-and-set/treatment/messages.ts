/** Texts of the treatment card, by component. */

export const treatmentCardMessages = {
  noLevel: 'There is no level in it to move',
  nothingMore: 'There is nothing to set here for this programme',
  treatment: 'Treatment',
  nothingTo: (name: string) => `Nothing to ${name}`,
  stepOn: (step: string) => `${step} on`,
  changeStep: (step: string, settings: string) => `${step}: ${settings}. Change`,
};

export const versionsMessages = {
  notSet: 'not set',
  versions: 'Versions',
  whatIsKept: 'Versions that were named, played or delivered are kept; a change starts a new one.',
  nameOfVersion: (version: number) => `Name of v${version}`,
  current: 'Current',
  goBack: 'Go back',
};
