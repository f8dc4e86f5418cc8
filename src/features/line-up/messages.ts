/** Texts of the line-up page, by component. */

export const lineUpMessages = {
  lineUps: 'Line-ups',
  newLineUp: 'New line-up',
  proposed: 'Suggested by groups and file names',
  make: 'Make',
  none: 'No line-ups yet',
  whatItIs:
    'A line-up is programmes that belong together: a record in order, a book of chapters, the stems of a mix. Make one to see and set them as a whole.',
  about: (kind: string, programmes: number) =>
    `${kind} · ${programmes === 1 ? '1 programme' : `${programmes} programmes`}`,
  aboutWhole: (kind: string, programmes: number, time: string) =>
    `${kind} · ${programmes === 1 ? '1 programme' : `${programmes} programmes`} · ${time}`,
  spec: 'Spec',
  edit: 'Edit',
  removeLineUp: 'Delete',
  removed: (name: string) => `${name} was deleted. Its programmes stay as they are.`,
  undo: 'Undo',
  undoHint: 'Undo the last change of a line-up here (Ctrl Z)',
  close: 'Close',
  waiting: (titles: string) => `◌ Not measured yet: ${titles}. The whole is read once they are.`,
  levels: 'Levels',
  whole: (loudness: string) => `whole ${loudness}`,
  range: (range: string) => `range ${range}`,
  peak: (peak: string) => `peak ${peak}`,
  stoppedBy: (titles: string) => `○ The ceiling stops the gain before the target: ${titles}.`,
};

export const balanceMessages = {
  heading: 'Set levels',
  wholeAtTarget: 'Whole at the target',
  wholeHint: 'One gain for all, so that the balance between programmes stays; the whole meets the target',
  loudestAtTarget: 'Loudest at the target',
  loudestHint: 'One gain for all, so that the balance between programmes stays; the loudest meets the target',
  eachAtTarget: 'Each at the target',
  eachHint: 'A gain for each programme',
  forecasting: 'forecasting …',
  noTarget: 'the spec has no target for it',
  lands: (whole: string, softest: string, loudest: string) => `whole ${whole}, each ${softest} to ${loudest}`,
  costs: (peak: string, reduction: string | null) =>
    reduction === null ? `peak ${peak}` : `peak ${peak}, limiters up to ${reduction}`,
  stoppedBy: (titles: string) => `stopped by the ceiling: ${titles}`,
};

export const terraceMessages = {
  picture: (name: string, parts: string) => `${name} along time: ${parts}`,
  track: (title: string, loudness: string) => `${title} ${loudness}`,
  ceiling: (ceiling: string) => `ceiling ${ceiling}`,
  whole: 'whole',
};

export const trackTableMessages = {
  number: '#',
  programme: 'Programme',
  starts: 'starts',
  length: 'length',
  gapAfter: 'gap after, s',
  gapHint:
    'In seconds, in frames (4410 f), or in frames of a CD (150/75); negative where the next begins before the end',
  loudness: 'loudness',
  fromWhole: 'from the whole',
  gain: 'gain, dB',
  limiter: 'limiter',
  peak: 'peak',
  isrc: 'ISRC',
  gainOf: (title: string) => `Gain of ${title}, dB`,
  move: (title: string) => `Move ${title}`,
  moveHint: 'Drag, or press Space and then ↑ or ↓',
  howToMove:
    'Press Space to pick up a programme, ↑ and ↓ to move it, Space to put it down, and Escape to leave it where it was.',
  pickedUp: (title: string, place: string) => `${title} picked up, ${place}`,
  isAt: (title: string, place: string) => `${title}: ${place}`,
  putDown: (title: string, place: string) => `${title} put down, ${place}`,
  notMoved: (title: string) => `${title} was not moved`,
  place: (position: number, of: number) => `position ${position} of ${of}`,
  gapAfterOf: (title: string) => `Gap after ${title}, seconds`,
  loudest: 'loudest',
  none: 'none',
  caption: (name: string) => `Programmes of ${name}, in order`,
};

export const lineUpDialogMessages = {
  newTitle: 'New line-up',
  editTitle: (name: string) => `Edit ${name}`,
  description: 'Programmes keep their own settings. A programme can be in several line-ups.',
  kind: 'Kind',
  name: 'Name',
  enterAName: 'Enter a name',
  programmes: 'Programmes',
  chooseSome: 'Choose at least one programme',
  all: 'All',
  noneChosen: 'None',
  artist: 'Artist',
  catalogNumber: 'Catalogue number (EAN or UPC)',
  firstIsrc: 'Number ISRCs from',
  isrcExample: 'QD-1A2-26-00001',
  noIsrc: 'An ISRC has twelve characters: CC-XXX-YY-NNNNN',
  isForCd: 'For a CD: assess what a CD asks',
  pregap: 'Pause ahead of the first track, s',
  hasLimit: 'One limiter over the whole, in place of those of each programme',
  ceiling: 'Its ceiling, dBTP',
  enterANumber: 'Enter a number',
  cancel: 'Cancel',
  make: 'Make the line-up',
  save: 'Save',
};

export const kindMessages = {
  record: 'record',
  book: 'book',
  stems: 'stems',
  film: 'film',
  parts: 'parts of one programme',
  versions: 'versions of one mix',
  batch: 'batch',
};

export const transitionMessages = {
  between: (first: string, second: string) => `${first} → ${second}`,
  what: (gap: string) => `last 5 s, ${gap}, first 5 s, as written`,
  play: 'Play the transition (T)',
  stop: 'Stop (T)',
  preparing: 'rendering …',
  gap: (seconds: string) => `gap ${seconds} s`,
  overlap: (seconds: string) => `overlap ${seconds} s`,
  joined: 'no gap',
  picture: (first: string, second: string) => `Waveform from the end of ${first} to the beginning of ${second}`,
};

export const writeRecordMessages = {
  heading: 'Write',
  file: 'File format',
  rate: 'Sample rate',
  asProgrammes: 'Rate of the programmes',
  depth: 'Bit depth',
  bits: (depth: number) => (depth === 32 ? '32-bit float' : `${depth}-bit`),
  mono: 'mono',
  bitRate: 'Bit rate',
  kbps: (kbps: number) => `${kbps} kbit/s`,
  single: 'Single files',
  singleHint:
    'A numbered file for each track, cut where the next begins; they join sample for sample, and have the cover of the first programme that has one',
  continuous: 'One file',
  continuousHint: 'One continuous file with its tracks marked, and the cover of the first programme that has one',
  withIt: (format: string, marks: string) => `${format}, with ${marks}, and a track sheet (PDF, CSV)`,
  marks: {
    cues: 'cue points and a cue sheet',
    container: 'chapters and a cue sheet',
    comments: 'chapters and a cue sheet',
  },
  cd: 'CD',
  cdMet: 'meets what a CD asks',
};

export const writeBookMessages = {
  heading: 'Book',
  openingCredits: 'First is the opening credits (number 00)',
  closingCredits: 'Last is the closing credits',
  chapterName: 'File names',
  chapterNameHint: '{number}, {title}, {book} and {author} stand for what they say',
  sample: 'Retail sample',
  noSample: 'No retail sample',
  oneFile: 'one M4B:',
  sampleFrom: 'from',
  sampleLength: 'length, s',
  sampleHint: '1 to 5 minutes of one chapter, brought to the spec by itself',
  write: 'Write the book',
  writeHint:
    'A folder with the verified file of each chapter, one file of them all with chapters and the cover of the first that has one, and a track sheet',
  files: (files: string) => `${files}, one M4B with chapters, and a track sheet (PDF, CSV)`,
  fromTo: (first: string, last: string) => `${first} … ${last}`,
  notDelivered: (titles: readonly string[], of: number) => {
    const named = titles.length > 3 ? `${titles.slice(0, 3).join(', ')} …` : titles.join(', ');
    const have = titles.length === 1 ? 'has' : 'have';
    return `${titles.length} of ${of} chapters ${have} no verified file with the current settings: ${named}`;
  },
};

export const writtenMessages = {
  heading: 'Written',
  single: 'single files',
  continuous: 'one file',
  stems: 'stems and master',
  book: 'book',
  film: 'film',
  addsUp: (left: string | null) => (left === null ? 'adds up exactly' : `adds up: ${left} left`),
  doesNotAddUp: (left: string) => `does not add up: ${left} left`,
  whole: (loudness: string, peak: string) => `${loudness} · ${peak}`,
  download: 'Download (ZIP)',
  files: (count: number) => (count === 1 ? '1 file' : `${count} files`),
  discard: 'Delete',
  discardHint: (name: string) => `Delete the files of ${name}`,
  cdMet: 'CD: everything met',
  cdMissed: (count: number) => `CD: ${count} missed`,
  sound: (tracks: string, loudness: string, peak: string) => `${tracks}: ${loudness} · ${peak}`,
  moved: (milliseconds: string) => `sound begins ${milliseconds} ms later by the picture`,
  movedEarlier: (milliseconds: string) => `sound begins ${milliseconds} ms earlier by the picture`,
};

export const filmMessages = {
  sound: 'Sound',
  deliveredAs: (format: string) => `delivered as ${format}`,
  tracks: (count: number) => (count === 1 ? '1 sound track' : `${count} sound tracks`),
  beginsAt: (timeCode: string) => `begins at ${timeCode}`,
  ready: 'ready to be written',
  waiting: (missing: number, of: number) => `${missing} of ${of} not delivered`,
  doesNotFit: 'does not fit',
  intoTrack: 'Into track',
  programme: 'Programme',
  file: 'Verified file',
  levels: 'Loudness, true peak',
  keptAs: 'In the film',
  noFile: 'none with the current settings',
  reads: (loudness: string, peak: string) => `${loudness} · ${peak}`,
  copied: (count: number) => (count === 1 ? 'copied as it is' : 'copied as they are'),
  notDelivered: (titles: readonly string[]) => `No verified file with the current settings: ${titles.join(', ')}.`,
  deliverFirst: 'Deliver the programmes first',
  whatIsCopied:
    'Picture, other tracks, subtitles, chapters, tags and time code are copied packet for packet. The film that is written is decoded and measured, and certified by what was read from it.',
  write: 'Write the film',
};

export const deliverAllMessages = {
  heading: 'All programmes',
};

export const stemsMessages = {
  apartHint: 'The stems do not fit the mix: see what differs',
  waitingHint: 'Stems are still being measured',
  about: (stems: number, length: string, isTimed: boolean | null) =>
    [
      `${stems === 1 ? '1 stem' : `${stems} stems`} and their mix`,
      length,
      ...(isTimed === null ? [] : [isTimed ? 'aligned by time reference' : 'aligned at the first frames']),
    ].join(' · '),
  noMix: 'Which programme is the mix?',
  noMixHint: 'Stems are compared with the mix that they add up to. If it is not in the list, add it with Edit.',
  mix: 'Mix',
  choose: 'Choose',
  isMix: 'mix',
  adds: 'stems add up',
  leaves: (from: string, to: string) => `do not add up from ${from} to ${to}`,
  leavesInPlaces: (places: number) => `do not add up in ${places} places`,
  notTested: 'not tested',
  test: 'Test',
  testAgain: 'Test again',
  lanes: (name: string) => `${name}: waveforms of the mix and its stems, with the places where something is left`,
  inMix: (gain: string, frames: string) => `${gain} · ${frames}`,
  frames: (frames: number) =>
    frames === 0
      ? 'in time'
      : `${Math.abs(frames)} ${Math.abs(frames) === 1 ? 'frame' : 'frames'} ${frames > 0 ? 'late' : 'early'}`,
  inverted: 'inverted',
  silent: 'not in the mix',
  left: 'What is left: the mix less its stems',
  leftHint: 'by octave and time, RMS in dBFS',
  residual: (all: string, most: string) => `${all} over the whole, ${most} at most`,
  residualNone: 'nothing',
  picture: (most: string) => `What is left by octave and time; at most ${most}`,
  scale: (from: string, to: string) => `${from} to ${to}`,
  place: (from: string, to: string) => `${from} – ${to}`,
  hear: 'Hear what is left',
  hearKey: 'Hear what is left (H)',
  stop: 'Stop (H)',
  raisedBy: (gain: string) => `raised by ${gain}`,
  copyNote: 'Copy as a note',
  copied: 'Copied',
  note: (mix: string, from: string, to: string, what: string) => `${mix}, ${from} to ${to}: ${what}`,
  noFault: 'The stems add up to the mix: what is left is the rounding of the files.',
  write: 'Write',
  writeStems: (stems: number) => `Write ${stems === 1 ? '1 stem' : `${stems} stems`} and the master`,
  asTheMix: (treatment: string) => `All with the treatment of the mix: ${treatment}.`,
  reductionOfTheMix: 'Its gain reduction is applied to every stem.',
  unchanged: 'none',
  setTheMix: 'Set the mix',
  doesNotAddUpYet: 'The stems do not add up to the mix; the written ones will not either.',
};
