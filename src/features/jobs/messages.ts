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
  serverNotReached: '▲ no server',
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
  delete: 'Delete',
  deleted: (jobs: number) => `${jobs} deleted`,
  deletedJobs: 'Deleted jobs',
  goneOn: (day: string) => `can be restored until ${day}; then its files and readings go for good`,
  touched: (day: string) => `last touched ${day}`,
  next: 'Next:',
  allDone: '◆ all written',
  inside: (count: number) => `${count} inside`,
  outside: (count: number) => `${count} outside`,
  notAssessed: (count: number) => `${count} not assessed in full`,
  notMeasured: (count: number) => `${count} not measured`,
  standing: (spec: string, parts: string) => `Against ${spec}: ${parts}`,
};

export const jobOrderMessages = {
  newestFirst: 'newest first',
  byName: 'by name',
  leastFinishedFirst: 'least finished first',
  lastTouchedFirst: 'last touched first',
  nothingTakenInYet: 'nothing taken in yet',
  programmes: (count: number) => `${count} ${count === 1 ? 'programme' : 'programmes'}`,
  nothingWrittenYet: 'nothing written yet',
  written: (count: number) => `${count} written`,
  accepted: (count: number) => `◆ ${count} accepted by ${count === 1 ? 'its receiver' : 'their receivers'}`,
  underway: (count: number) => `${count} being sent`,
  refused: (count: number) => `▲ ${count} refused`,
  takeFilesIn: 'Take files in',
  measure: (count: number) => `Wait for ${count} to be measured`,
  answerRefusals: (count: number) => `See why ${count === 1 ? 'one was' : `${count} were`} refused`,
  decide: (count: number) => `Decide on ${count} outside ${count === 1 ? 'its' : 'their'} spec`,
  write: (count: number) => `Write ${count} ${count === 1 ? 'row' : 'rows'}`,
  set: (count: number) => `Set ${count} outside the spec`,
  addDeliveries: 'Add deliveries',
  outsideTheSpec: (missing: number) => `▲ ${missing} outside the spec`,
};
