/** Texts of the take-in page, by component. */
import { formatSampleRate } from '@/core/units/format';
import type { SoundTrack } from '@/formats/metadata';

export const descriptionMessages = {
  enterATitle: 'Enter a title',
  atMost200Characters: 'At most 200 characters',
  atMost2000Characters: 'At most 2000 characters',
  atMost120Characters: 'At most 120 characters',
};

export const dropNewJobMessages = {
  dropHere: 'Drop to start a job with these files',
  first: 'Drop a mix here: it is measured, and you see what brings it into spec.',
  choose: 'Choose files',
  filesOfAJob: 'Files to start a job with',
  several:
    'Several files, an episode, chapters or stems come in together. Nothing leaves this machine until you send it.',
};

export const dropTargetMessages = {
  files: 'Files',
};

export const dropZoneMessages = {
  addFiles: 'Add files',
  filesToTakeIn: 'Files to take in',
  dropHere: 'Drop to take the files in',
};

export const editProgrammeMessages = {
  edit: 'Edit',
  madeFrom: (fileName: string) => `made from ${fileName}`,
  title: 'Title',
  group: 'Group: the mix of a stem, the book of a chapter (optional)',
  note: 'Note',
  removeFromTheJob: 'Remove from the job',
  save: 'Save',
};

export const replaceMessages = {
  open: 'Replace',
  title: (title: string) => `Replace the file of ${title}`,
  description:
    'A new version takes its place: title, treatment, markers, rows and line-ups stay. The old version is taken out of the job.',
  newVersion: 'New version',
  choose: 'Choose the new version',
  noOther: 'The job has no other programme. Take in the new version first.',
  now: 'Now',
  difference: 'Difference',
  file: 'File',
  format: 'Format',
  length: 'Length',
  integrated: 'Integrated loudness',
  truePeak: 'True peak',
  same: 'unchanged',
  misfits: 'Does not fit the new version',
  misfit: {
    cut: (what: string) => `${what}: will end where the new version ends`,
    removed: (what: string) => `${what}: will be removed`,
  },
  allFits: 'Everything that is set fits the new version.',
  replace: 'Replace',
  cancel: 'Cancel',
  replaced: (title: string) => `${title} has its new version.`,
  undo: 'Undo',
  close: 'Close',
};

export const fileDetailsMessages = {
  file: 'File',
  reading: 'reading …',
  nothing: 'No tags, no markers, no history.',
  picture: 'Picture',
  tracks: 'Sound tracks',
  track: ({ codec, sampleRateHz, channels, language, title }: SoundTrack) =>
    [
      codec,
      `${channels} ${channels === 1 ? 'channel' : 'channels'}`,
      formatSampleRate(sampleRateHz),
      ...(language === null ? [] : [language]),
      ...(title === null ? [] : [title]),
    ].join(', '),
  timeCode: 'Time code',
  noTimeCode: 'none in the file',
  setByHand: ', set by hand',
  timeReference: 'Time reference',
  startsAt: 'starts at',
  afterMidnight: (frames: number) => `after midnight (${frames} frames)`,
  statedLoudness: 'Loudness stated in the file',
  tags: 'Tags',
  codingHistory: 'Coding history',
  chunks: 'Chunks',
  at: 'at',
  length: 'length',
  name: 'name',
  sizeAndHash: (size: string, start: string) => `${size} · SHA-256 ${start}…`,
  markers: (count: number) => (count === 1 ? '1 marker' : `${count} markers`),
};

export const mediaBrowserMessages = {
  chooseFirst: 'Tick files first',
  fromThisMachine: 'From this machine',
  takeInFromThisMachine: 'Take in from this machine',
  whatItDoes: 'Files are read in place, not copied. If one changes later, its row says so.',
  folder: 'Folder',
  thisFolderIsEmpty: 'This folder is empty.',
  reading: (reading: string) => `reading ${reading} …`,
  takeInOne: 'Take in 1 file',
  takeInMany: (count: number) => `Take in ${count} files`,
};

export const proposedGroupsMessages = {
  stemsOfOneMix: 'stems of one mix',
  partsOfOneSeries: 'parts of one series',
  versionsOfOneProgramme: 'versions of one programme',
  heading: 'Groups that the names suggest',
  group: 'Group',
  no: 'No',
};

export const removedListMessages = {
  heading: 'Removed from this job',
  removed: (title: string) =>
    `${title} was removed from this job, with its settings and files. Everything can be restored.`,
  restore: 'Restore',
};

export const takeInRowMessages = {
  seeOnTheDesk: 'See it on Measure & set, and what mends it',
  setStep: (title: string) => `Set: ${title}`,
  readInPlace: 'not copied; read from',
  modified: 'modified since, not yet compared:',
  changed: '▲ changed since it was taken in:',
  misses: 'Misses',
  noFindings: 'findings: none',
};

export const findBarMessages = {
  find: 'Find',
  findBy: 'Find by title, file, note or group',
  findHint: 'Find (/)',
  show: 'Show',
  spec: 'Spec',
  all: 'all programmes',
  misses: 'outside the spec',
  inside: 'inside the spec',
  findings: 'with findings',
  waiting: 'not measured yet',
  listed: (listed: number, all: number) => `${listed} of ${all} programmes`,
  none: 'None of the programmes matches.',
};

export const takeInTableMessages = {
  inOrderOfArrival: 'in order of arrival',
  furthestFromTheSpecFirst: 'furthest from the spec first',
  mostFindingsFirst: 'most findings first',
  byTitle: 'by title',
  longestFirst: 'longest first',
  byFile: 'by file name',
  highestFirst: (reading: string) => `highest ${reading} first`,
  state: 'State',
  programmes: 'Programmes',
  order: 'Order',
  format: 'Format',
  against: (name: string) => `against ${name}`,
  missesAndFindings: 'Misses and findings',
  readings: 'Readings',
  download: 'Download (CSV)',
  copy: 'Copy',
  copyHint: 'Copies all readings, for a spreadsheet',
  copied: 'copied',
  group: (programmes: number, time: string) =>
    `${programmes === 1 ? '1 programme' : `${programmes} programmes`} · ${time}`,
};

export const takeInMessages = {
  dropHere: 'Drop mixes anywhere on this page',
  whatCanBeTakenIn:
    'WAV, AIFF, FLAC, MP3, M4A, Opus and other common formats, and the sound of videos; up to 24 channels. Each is measured over its whole length on arrival, and never changed.',
  chooseFiles: 'Choose files',
};

export const tracksFormMessages = {
  together: 'Programmes, by their tracks',
  hint: 'Tracks of one programme with +, programmes with a comma: 1+2, 3-8. Each is taken in beside the film, channels in the order written.',
  notRead: 'Write tracks such as 1+2, 3-8, each track once.',
  noSuchTrack: (tracks: number) => `The file has ${tracks} tracks.`,
  take: (programmes: number) => (programmes === 1 ? 'Take in 1 programme' : `Take in ${programmes} programmes`),
};

export const definitionMessages = {
  heading: 'Audio definition (ADM)',
  explained:
    'What is heard is a rendering for loudspeakers. Each rendering that is taken in is measured, set and delivered as any other programme.',
  for: (programme: string) => `Render “${programme}” for`,
  forWhole: 'Render for',
  notRendered: (reason: string) => `Not rendered: ${reason}.`,
  take: (renderings: number) => (renderings === 1 ? 'Take in 1 rendering' : `Take in ${renderings} renderings`),
};

export const renderingsUnderWayMessages = {
  of: (programme: string | null, layout: string) =>
    programme === null ? `rendering in ${layout}` : `rendering of ${programme} in ${layout}`,
};

export const tracksUnderWayMessages = {
  of: (tracks: string) => `${/[-+]/.test(tracks) ? 'tracks' : 'track'} ${tracks}`,
};

export const trackChoiceMessages = {
  soundTrack: 'Sound track',
};

export const transferMessages = {
  didNotArrive: (fileName: string) =>
    `${fileName} did not arrive: the connection to Opsimeter was lost. Everything saved before is safe. Check that it is still running, then try again.`,
  interrupted: (fileName: string) =>
    `${fileName} was interrupted: the connection to Opsimeter was lost. What has arrived stays for a day. Check that it is still running, then try again: the upload will resume.`,
};

export const uploadListMessages = {
  arriving: 'Arriving',
  dropToResume: 'Drop it again: the upload will resume.',
  drop: 'Drop it again.',
  wasInterrupted: (fileName: string, size: string, todo: string) => `○ ${fileName} (${size}) was interrupted. ${todo}`,
  dismiss: 'Dismiss',
  tryAgain: 'Try again',
  close: 'Close',
  takingIn: (fileName: string) => `Taking in ${fileName}`,
  waits: (size: string) => `waits · ${size}`,
  cancel: 'Cancel',
  storing: 'storing …',
  sent: (sent: string, size: string, perSecond: string) => `${sent} of ${size} · ${perSecond}/s`,
};

export const uploadsMessages = {
  alreadyInThisJob: (fileName: string, title: string) =>
    `${fileName} is already in this job, as ${title}: the same file.`,
};

export const columnsMessages = {
  columns: 'Columns',
  readings: 'Readings with a column',
  compact: 'Compact rows',
  compactHint: 'One line for each programme',
  more: (count: number) => `and ${count} more`,
};

export const tagsDialogMessages = {
  nothingChanged: 'Nothing is changed yet',
  open: 'Tags',
  title: (count: number) => `Tags of ${count === 1 ? '1 programme' : `${count} programmes`}`,
  description: 'What is left empty here stays as it is. Titles, tracks and ISRCs belong to each programme.',
  artist: 'Artist',
  album: 'Album',
  year: 'Year',
  genre: 'Genre',
  comment: 'Comment',
  cancel: 'Cancel',
  set: 'Set tags',
};

export const copyStepsMessages = {
  tickSteps: 'Tick steps that are to be set',
  open: 'Copy steps',
  openHint: 'Sets steps of the treatment as one of the programmes has them',
  title: (count: number) => `Copy steps to ${count === 1 ? '1 programme' : `${count} programmes`}`,
  description: 'Sets the ticked steps as the programme below has them now. All other steps stay as they are.',
  from: 'Copy from',
  steps: 'Steps',
  off: 'off',
  noGain: '0 dB',
  cancel: 'Cancel',
  set: (count: number) => (count === 1 ? 'Set 1 programme' : `Set ${count} programmes`),
};

export const selectionMessages = {
  select: (title: string) => `Select ${title}`,
  selectAll: 'Select all',
  selected: (count: number) => `${count} selected`,
  clear: 'Clear',
  lineUp: 'New line-up',
  lineUpHint: 'Makes a line-up of them, in the order in which they are listed; its kind and name can be changed there',
  remove: 'Remove',
  removeHint: 'Takes them out of the job; they can be put back below',
  rangeHint:
    'Shift-click selects everything in between. ↑ and ↓ go from row to row, with Shift they select; Enter opens, Delete removes, Ctrl A selects all.',
};

export const timeCodeFormMessages = {
  byHand: 'Set it by hand, for the first frame of the sound',
  example: '10:00:00:00',
  rate: 'Rate',
  set: 'Set time code',
  ofTheFile: 'That of the file',
  notRead: 'Hours, minutes, seconds and pictures that this rate counts, such as 10:00:00:00',
};
