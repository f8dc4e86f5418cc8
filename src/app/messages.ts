/** Texts of the first page, and of what is shown when a page fails, by component. */

export const errorMessages = {
  thisPageCouldNotBeShown: 'This page could not be shown',
  allSaved: 'Everything saved is safe. Try again; if it happens again, include this in your report:',
  tryAgain: 'Try again',
};

export const layoutMessages = {
  opsimeter: 'Opsimeter',
  summary: 'Measure a mix against a loudness spec, set its gain, and hand over a master that was measured again.',
};

export const notFoundMessages = {
  pageNotFound: 'Page not found',
  allSaved: 'Everything saved is safe. The job may have another address.',
  toTheJobs: 'Go to the list of jobs',
};

export const pageMessages = {
  jobs: 'Jobs',
  whatAJobIs: 'A job is one piece of work for one client. You can also name it first, and add its files then.',
  newJob: 'New job',
  jobExample: 'Client · what it is',
  startTheJob: 'Start the job',
};
