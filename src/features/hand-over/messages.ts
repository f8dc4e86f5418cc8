/** Texts of the hand-over page, by component. */

export const decideMessages = {
  missesItsSpec: (fileName: string) => `${fileName} misses its spec`,
  thisFileMissesItsSpec: 'This file misses its spec',
  recalculateAndRewrite: 'Recalculate and rewrite',
  acceptWithAReason: 'Accept with a reason …',
  discardTheFile: 'Discard the file',
  reasonForAcceptingIt: 'Reason for accepting it',
  accept: 'Accept',
  back: 'Back',
  peakAfterCoding: (format: string, peak: string, ceiling: string) =>
    `After ${format} coding the decoded peak is ${peak}; the spec asks for ${ceiling} or less.`,
  whatRecalculatingDoes: (marginDb: string) => `Recalculating aims ${marginDb} dB lower.`,
};

export const deliveryDialogMessages = {
  forEach: (count: string | number) => `One for each of ${count} programmes. Nothing is written yet.`,
  spec: 'Spec',
  levels: 'Levels',
  asSet: 'as set',
  asSetHint: 'Gain and limiter as set on the desk',
  gainOnly: 'gain only',
  gainOnlyHint: 'The gain that this spec asks for, without limiting',
  gainAndLimiter: 'gain and limiter',
  gainAndLimiterHint: 'To the target, within the reduction allowed',
  tagsOnly: 'tags only',
  tagsOnlyHint: 'A passthrough: the source file with its samples unchanged, and new tags',
  reductionAllowed: 'Reduction allowed',
  upTo: (db: number) => `up to ${db} dB`,
  loudnessTags: 'Loudness tags',
  loudnessTagsHint: 'ReplayGain 2.0, or R128 gain in Opus, as measured from the written file',
  writeLoudnessTags: 'write loudness tags',
  whereSupported: 'where the source’s format supports them',
  receiver: 'Receiver',
  takeNearest: (nearestText: string) => `Use ${nearestText}`,
  samplesUnchanged: 'The source file, samples unchanged',
  forOne: (title: string) => `For ${title}. Nothing is written yet.`,
};

export const earlierFilesMessages = {
  earlierFiles: 'Earlier files',
  whatTheyAre: 'of rows that were written again, changed, or removed',
  discarded: 'discarded',
  verified: 'verified',
  download: (fileName: string) => `Download ${fileName}`,
};

export const fileFieldsMessages = {
  file: 'File',
  channels: 'Channels',
  oneFile: 'one file',
  splitHint: 'A file for each channel',
  monoSumHint: 'The mean of both channels',
  rate: 'Rate',
  bitRate: 'Bit rate',
  mode: 'Mode',
  depth: 'Depth',
  dither: 'dither',
  ditherKind: 'Dither',
  defaultTriangular: 'default (triangular)',
  defaultNone: 'default (none)',
  noDitherInSilenceHint: 'No dither where the programme is digital silence',
  noDitherInSilence: 'no dither in silence',
};

export const handOverMessages = {
  nothingMeasured: 'No programme is measured yet',
  tickRows: 'Tick rows that are to be written',
  allProgrammes: 'All programmes',
  programmesInThisJob: (count: number) => `${count} in this job`,
  programme: 'Programme',
  allOf: (count: number) => `All ${count} programmes`,
  addADelivery: 'Add a delivery',
  allCertificates: 'All certificates',
  allFiles: 'All files (ZIP)',
  allFilesHint:
    'Files that are inside their spec or accepted, with certificates; records and stems in folders of their own',
  cancelAll: (count: number) => `Cancel all ${count}`,
  addRoomToneHint: 'Adds the room tone that its spec asks for to every row that lacks it',
  addRoomTone: (rows: number) => `Add the missing room tone to ${rows === 1 ? '1 row' : `${rows} rows`}`,
  undo: 'Undo',
  intoFilm: 'Put back into the film',
  intoFilmHint: (film: string) => `Write ${film} again with verified files in place of its sound`,
  undoHint: 'Undo the last change of the sheet here (Ctrl Z); written files stay',
  withoutFfmpeg: '○ FFmpeg is not installed: WAV, BW64 and AIFF can be written; other formats and rates cannot.',
  nothingIsMeasuredYet: '◌ Nothing is measured yet. Deliveries can be written once it is.',
  noDeliveriesYet: 'No deliveries yet',
  howToBegin:
    'Add a delivery, or choose a set. Each row shows its forecast before anything is written; each written file is measured again.',
  addRows: (rows: number) => `Add ${rows} rows`,
  addTheRow: 'Add the row',
  noTreatment: 'no treatment set',
  madeFrom: (treatment: string, time: string, fileName: string) => `${treatment} · ${time} · made from ${fileName}`,
  forecasting: (pending: number) => `Forecasting ${pending} …`,
  nothingTicked: 'Nothing ticked',
  writeOne: 'Write 1 delivery',
  writeMany: (count: number) => `Write ${count} deliveries`,
  outOfDate: (stale: number) => `${stale} out of date`,
  underWay: (underWay: number) => `${underWay} under way`,
  wouldMiss: (wouldMiss: number) => `${wouldMiss} would miss`,
  toWrite: (fine: number) => `${fine} to write`,
  beingForecast: (pending: number) => `${pending} being forecast`,
  verified: (count: number) => `${count} verified`,
  accepted: (count: number) => `${count} accepted`,
  missed: (count: number) => (count === 1 ? '1 misses' : `${count} miss`),
};

export const missesMessages = {
  heading: (count: number) => {
    if (count === 0) return 'Files that missed are written again';
    return count === 1 ? '1 file misses its spec' : `${count} files miss their spec`;
  },
  solve: (count: number) => `Recalculate and rewrite ${count}`,
  discard: (count: number) => `Discard ${count}`,
};

export const inputsMessages = {
  enterAReason: 'Enter a reason of at least three characters',
  atMost2000Characters: 'At most 2000 characters',
  enterAName: 'Enter a name',
  atMost80Characters: 'At most 80 characters',
  enterATemplate: 'Enter a name for the files',
  atMost200Characters: 'At most 200 characters',
};

export const copyOutMessages = {
  copy: 'Copy to the folder',
  copyAgain: 'Copied; copy again',
  copying: 'copying',
  hint: (path: string) => `Copies what “All files” holds to ${path}; nothing there is overwritten`,
};

export const nameTemplateMessages = {
  nightfall: 'Nightfall',
  season: 'Season',
  named: 'named',
  fileNames: 'File names',
  whatItChanges:
    'For this job, from now on. Written files keep their names; nothing is overwritten. What is ahead of a slash is a folder in the ZIP and in the output folder.',
  template: 'Template',
  example: 'Example:',
  unknownFields: (fields: string, count: number) => `▲ ${fields} ${count === 1 ? 'is' : 'are'} unknown, and left out.`,
  reset: 'Reset',
  save: 'Save',
};

export const rowFactsMessages = {
  reduction: (greatestDb: string) => `${greatestDb} dB`,
  much: (muchReductionDb: number) => `more than ${muchReductionDb} dB`,
  sha256: 'sha256',
  andMore: (files: number) => ` and ${files} more`,
  ceilingLoweredTo: (ceiling: string) => `; ceiling lowered to ${ceiling}`,
  writtenTimes: (times: number, ceiling: string) => `written ${times} times${ceiling}`,
  certificateOf: (fileName: string) => `Certificate of ${fileName}`,
  certificatePdf: 'Certificate, PDF',
  jsonCertificateOf: (fileName: string) => `Certificate of ${fileName} as JSON`,
  json: 'JSON',
  missesItsSpec: ', which misses its spec',
  download: 'Download',
  downloadOf: (fileName: string) => `Download ${fileName}`,
  loudness: 'loudness',
  peak: 'peak',
};

export const rowStateMessages = {
  by: (name: string) => `, ${name}`,
  approve: 'Approve',
  approveFile: (fileName: string) => `Approve ${fileName}`,
  approvedBy: (name: string) => `approved by ${name}`,
  unsupported: 'unsupported',
  forecasting: '◌ forecasting …',
  verified: 'verified',
  outOfDate: 'out of date: settings changed',
  outOfDateHint: 'when written; tick it to write it again',
  accepted: 'accepted',
  forecast: 'forecast',
  stopsItShort: (binding: string, shortfallLu: string) => `${binding} stops it ${shortfallLu} LU short`,
  forecastPill: 'Forecast',
  addRoomToneHint: 'Adds the room tone that the spec asks for at start and end',
  addRoomTone: 'Add the missing room tone',
  reachTheCeiling: 'reach the ceiling',
  peaksVary: 'differ from one encode to the next, and exceeded the ceiling at a higher level',
  softerThanForecast: (shortLu: string, why: string) => `${shortLu} LU softer than forecast: decoded peaks ${why}`,
};

export const templatesMenuMessages = {
  nothingMeasured: 'No programme is measured yet',
  choose: 'Templates',
  heading: 'Templates',
  hint: 'A template adds its deliveries; it sets steps of the treatment and file names where it has any.',
  own: 'Yours',
  builtIn: 'To begin with',
  remove: (name: string) => `Delete the template ${name}`,
  download: (name: string) => `Download the template ${name} (JSON)`,
  saveAs: 'Save the rows of this programme as',
  example: 'Season release',
  withTreatment: 'with its treatment',
  withNames: 'with the file names of this job',
  save: 'Save',
  bringIn: 'Import (JSON)',
  notRead: 'this file is no template',
  about: (count: number, programmes: number, more: readonly string[]) =>
    [
      (count === 1 ? '1 delivery' : `${count} deliveries`) +
        (programmes > 1 ? ` for each of ${programmes} programmes` : ''),
      ...more,
    ].join(', '),
  treatment: 'treatment',
  names: 'file names',
};

export const sheetMessages = {
  deliveries: 'Deliveries',
  writeAll: 'Tick all that can be written',
  copyRow: (name: string) => `Add another row like that of ${name}`,
  copyRowHint: 'Add another row like this',
  anotherLike: (spec: string) => `Another delivery for ${spec}`,
  addTheRow: 'Add the row',
  delivery: 'Delivery',
  file: 'File',
  loudness: 'loudness',
  peak: 'peak',
  limiter: 'limiter',
  forecastMeasured: 'forecast → measured',
  size: 'size',
  state: 'state',
  changeTheDeliveryFor: (name: string) => `Change the delivery for ${name}`,
  saveTheRow: 'Save the row',
  aimedBelowTheCeiling: (marginDb: string) => `, aimed ${marginDb} dB below the ceiling`,
  sameAsARowAbove: '○ same as a row above',
  paddedWithRoomTone: 'padded with room tone',
  reset: 'Reset',
  to: (name: string) => `to ${name}`,
  accepted: 'accepted',
  changeTheRowOf: (name: string) => `Change the row of ${name}`,
  change: 'Change',
  removeRow: (name: string) => `Remove ${name} from the sheet`,
  removeRowHint: 'Remove from the sheet; written files are kept',
  writeNearest: (nearestText: string) => `Write ${nearestText}`,
  writeRow: (name: string) => `Write ${name}`,
  aSpan: ' · a span',
  notLimited: 'none',
};

export const tagsDialogMessages = {
  title: 'Title',
  artist: 'Artist',
  album: 'Album',
  track: 'Track',
  year: 'Year',
  genre: 'Genre',
  tags: 'Tags',
  tagsStated: (stated: number) => `Tags · ${stated}`,
  tagsOf: (title: string) => `Tags of ${title}`,
  whatItChanges: 'Written into every delivery from now on. Files written before are not changed.',
  comment: 'Comment',
  useProgrammeTitle: 'Use programme title',
  save: 'Save',
  coverOf: (title: string) => `Cover of ${title}`,
  noCover: 'no cover',
  replaceTheCover: 'Replace the cover',
  chooseACover: 'Choose a cover',
  removeTheCover: 'Remove the cover',
  coverHint: 'PNG or JPEG; for FLAC, MP3, AAC, Opus and Vorbis',
  cover: 'A cover',
};

export const transferStateMessages = {
  sendTo: (name: string) => `Send to ${name}`,
  refused: 'refused',
  sendAgain: 'Send again',
  by: (name: string) => `by ${name} · `,
  transferCancelled: '◌ transfer cancelled',
  tryAgain: 'Try again',
  cancel: 'Cancel',
  isCheckingIt: (receiverName: string) => `○ ${receiverName} is checking it`,
  triedWaits: (failedTries: number) => `tried ${failedTries} ×, waits`,
  deliveryLogOf: (receiverName: string) => `Delivery log of ${receiverName}`,
  deliveryLog: 'delivery log',
  sending: 'sending',
};

export const writtenPlayerMessages = {
  closeThePlayerOf: (name: string) => `Close the player of ${name}`,
  playFile: (name: string) => `Play ${name}`,
  closeThePlayer: 'Close the player',
  playTheWrittenFile: 'Play the written file',
  cannotPlay: '◌ This browser cannot play this format. Download the file to hear it.',
  writtenFile: (fileName: string) => `Written file ${fileName}`,
};
