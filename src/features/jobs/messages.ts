/** Texts of the list of jobs and the bar above a job, by component. */

export const importJobMessages = {
  didNotArrive: (name: string) =>
    `${name} did not arrive: the connection to Opsimeter was lost. Nothing was imported. Check that it is still running, then try again.`,
  importing: (busy: string) => `importing ${busy}, and measuring it …`,
  importAJob: 'Import a job',
  zipOfAJob: "A job's ZIP",
};

export const jobHeaderMessages = {
  takeIn: 'Take in',
  measureAndSet: 'Measure & set',
  lineUp: 'Line up',
  handOver: 'Hand over',
  stages: 'Stages',
  serverNotReached: '▲ server not reached',
  notSaved: '▲ not saved',
  allSaved: 'all saved',
  saving: 'saving …',
};

export const jobListMessages = {
  search: 'Search',
  order: 'Order',
  archived: (archived: number) => `${archived} archived`,
  noJobMatches: (search: string) => `No job matches “${search}”.`,
  allJobsAreArchived: 'All jobs are archived.',
  jobs: 'Jobs',
  exportAsZip: (name: string) => `Export ${name} as a ZIP`,
  export: 'Export',
  restore: 'Restore',
  archive: 'Archive',
  isArchived: ' · archived',
};

export const jobOrderMessages = {
  newestFirst: 'newest first',
  byName: 'by name',
  leastFinishedFirst: 'least finished first',
  nothingTakenInYet: 'nothing taken in yet',
  notMeasured: (programmes: number) => `${programmes} not measured`,
  nothingWrittenYet: 'nothing written yet',
  outsideTheSpec: (missing: number) => `▲ ${missing} outside the spec`,
};
