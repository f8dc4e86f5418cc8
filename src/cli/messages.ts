/** Texts of the command, by file. */

import { formatSampleRate } from '@/core/units/format';
import type { SoundTrack } from '@/formats/metadata';
import type { UnreadLine } from '@/formats/span-list';

export const deliverCommandMessages = {
  tagsOnlyInTheApp: 'Rows with tags only are written in the app',
  sameOutput: (told: string, twin: string, outputPath: string) => `${told} and ${twin} would both be ${outputPath}`,
  noDeliveries: 'A programme has deliveries or a template',
  unreadable: (jobFile: string, where: string) => `${jobFile} is not a readable job file${where}`,
  nothingToWrite: 'Name some programmes, records, stems or books',
  book: (format: string, chapters: number, whole: string) =>
    `${chapters === 1 ? '1 chapter' : `${chapters} chapters`} as ${format}, and together as ${whole}`,
  bookNotWritten: (name: string, missed: number) =>
    `${name} was not written: ${missed === 1 ? '1 chapter misses its spec' : `${missed} chapters miss their spec`}, whatever the gain`,
  record: (format: string, tracks: number, loudness: string, peak: string) =>
    `${format}; ${tracks} tracks, together ${loudness}, ${peak}`,
  track: (number: number, start: string, title: string, isrc: string) =>
    `${String(number).padStart(2)}  ${start}  ${title}${isrc ? `  ${isrc}` : ''}`,
  stoppedBy: (titles: readonly string[]) => `The ceiling stops the gain before the target: ${titles.join(', ')}`,
  cd: (phrase: string) => `CD: ${phrase}`,
  stems: (format: string, stems: number) => `${format}; ${stems === 1 ? '1 stem' : `${stems} stems`} and their master`,
  addUp: (most: string) => `● the written stems add up to the master: what is left is ${most} at most`,
  doNotAddUp: (most: string, allowed: string) =>
    `▲ the written stems do not add up to the master: what is left is up to ${most}, and may be ${allowed}`,
};

export const jobTemplateMessages = {
  unknown: (named: string, known: string) => `There is no template "${named}": name a file, or ${known}`,
  unreadable: (named: string) => `${named} is not a template`,
};

export const booksMessages = {
  noChapter: (chapter: number, of: number) => `The sample is of chapter ${chapter}, and there are ${of}`,
  beyondTheEnd: 'it ends behind the end of the programme',
};

export const flagsMessages = {
  number: (name: string, least: number, most: number) => `--${name} is a number from ${least} to ${most}`,
  oneOf: (name: string, known: string) => `--${name} is one of ${known}`,
  time: (name: string) => `--${name} is a time, such as 90, 1:30 or 1:02:03.250`,
};

export const joinedCommandMessages = {
  together: (files: number) => (files === 1 ? '1 file' : `${files} files, played in this order`),
  track: (number: number, file: string) => `${String(number).padStart(2)} ${file}`,
  fromWhole: (difference: string) => `${difference} LU from the whole`,
  noLoudness: 'no loudness',
  loudest: 'loudest',
};

export const mainMessages = {
  backup: 'save a data folder, also while the app works on it: everything is hashed as it is written',
  backupTakesOne: 'backup takes one folder',
  restore: 'make a data folder from its newest backup, or from the one named, with every hash checked',
  restoreTakesOne: 'restore takes one folder',
  people: 'who may use the app from a network: list, add NAME or passphrase NAME (read from the standard input)',
  role: 'engineer or reviewer (engineer)',
  data: 'the data folder; otherwise OPSIMETER_DATA, or data',
  summary: 'Measure, check and master sound files from the command line.',
  exitCodes: '\nExit: 0 all inside, 1 something misses its spec, 2 unusable input or usage.',
  noCommand: 'No command was given',
  unknownCommand: (command: string) => `There is no command "${command}"`,
  json: 'results as JSON',
  tracks:
    'sound tracks of a film, put together in this order: 2, 1+2 or 3-8 (the first unless it is set); several programmes: 1+2,3-8',
  joinedHasNoTracks: '--joined plays the first sound track of each file, and takes no --tracks',
  noTracks: (text: string) => `"${text}" names no tracks; write 2, 1+2, 3-8 or 1+2,3-8, each track once`,
  layout: (layoutIds: string) => `read the channels as this layout: ${layoutIds}`,
  spans: 'each span that an edit list (CMX 3600) or a table (CSV) names, by itself',
  downmix: 'the stereo or mono downmix of a surround file (ITU-R BS.775) in its place',
  render: (layouts: string) =>
    `what the file's audio definition (ADM) describes, rendered for loudspeakers in its place: ${layouts}`,
  audioProgramme: 'the programme of the definition, by its ID (measure and check: all; master: the first)',
  renderingIsWhole: '--render is of the whole file: it takes no --layout, --tracks, --downmix or --spans',
  asAdm: 'with --render: write all tracks with their definition, levelled by that rendering',
  masterOneRendering: 'One file is written of one rendering; several in one go: "deliver"',
  hash: 'also print the SHA-256 of each file',
  measure: 'readings of each file',
  joined: 'as one programme, as if the files were played in this order (with --gap)',
  gap: 'seconds of silence between the files; negative for an overlap with a crossfade (0)',
  check: 'readings of each file against a spec',
  spec: 'the spec ("opsimeter specs" lists them)',
  master: (writtenExtensions: string, filmExtensions: string) =>
    `gain to a spec, written as what --out ends in (${writtenExtensions}), measured again as written; into a film, its sound goes back with everything else copied (${filmExtensions})`,
  out: 'the file that is written',
  masterTakesOne: '"master" takes one file at a time',
  oneProgramme: 'Several programmes go into a film; a sound file takes one: --tracks 1+2',
  timeCode: (rates: string) =>
    `the time code of the first frame, in place of the file's own, such as 10:00:00:00@25 (rates: ${rates})`,
  timeCodeOfFilm: 'A film keeps its own time code: --time-code is for sound alone',
  noTimeCode: (text: string) =>
    `${text} is no time code: a label that its rate counts is wanted, such as 10:00:00:00@25`,
  codecIsOfFilms: '--codec is for films; what a sound file is written as, its name says',
  deliver: 'several deliveries of several files, each with its spec, format and level mode (docs/hand-over.md)',
  deliverTakesOne: '"deliver" takes one job at a time',
  verify: 'whether a file is still the certified one, and still measures the same',
  nullTest: 'whether stems add up to their mix: what is left, where, and what it looks like',
  nullTakesMore: '"null" takes a mix and at least one stem',
  fromStart: 'align first frames, though the files state a time',
  live: 'a line while it sounds, once a second: INPUT is an address (http, https, rtp, srt, udp), or a file that is played in real time',
  liveSeconds: 'end after so many seconds',
  liveRecord: 'record the line to a new 24-bit WAV, readable at every moment (BW64 beyond 4 GiB)',
  liveFloat: 'record 32-bit float',
  liveJson: 'one line of JSON each second, and one with the readings at the end',
  liveTakesOne: '"live" takes one line at a time',
  specs: 'the specs, and the documents they come from',
  unknownLayout: (value: string, layoutIds: string) => `There is no layout "${value}"; it is one of ${layoutIds}`,
  noFile: 'No file was named',
  isMissing: (name: string) => `${name} is missing`,
};

export const renderingMessages = {
  noLayouts: (text: string, known: string) => `"${text}" names no layouts; they are ${known}, each once`,
  title: (file: string, programme: string | null, layout: string) =>
    programme === null ? `${file}, rendered in ${layout}` : `${file}, “${programme}” rendered in ${layout}`,
  node: (name: string, id: string, details: readonly string[]) => [`“${name}” (${id})`, ...details].join(' · '),
  rendered: (name: string) => `“${name}”, rendered:`,
  whole: 'Rendered:',
  finding: (finding: string, layouts: string) => `${finding} (${layouts})`,
  asTheyAre: '  The channels as they are; --render measures what the definition describes.',
};

export const liveCommandMessages = {
  heading: (line: string, format: string) => `${line}: ${format}`,
  second: (time: string, momentary: string, shortTerm: string, integrated: string, range: string, truePeak: string) =>
    `${time}  M ${momentary}  S ${shortTerm}  I ${integrated} LUFS  LRA ${range} LU  TP ${truePeak} dBTP`,
  gap: (time: string, frames: number) => `▲ ${time}: ${frames} frames lost; silence stands in their place`,
  lost: (frames: number) => `  ▲ ${frames} frames lost`,
  end: (seconds: string) => `Measured ${seconds}:`,
  recorded: (file: string, seconds: string) => `  recorded: ${file}, ${seconds}`,
  clipped: (samples: number) =>
    `  ▲ ${samples} samples stood beyond full scale and were held at it; --float keeps them`,
};

export const nullCommandMessages = {
  heading: (mix: string, stems: number, fromStart: boolean) =>
    `${mix} − ${stems === 1 ? '1 stem' : `${stems} stems`}, aligned by ${fromStart ? 'first frame' : 'time reference'}`,
  nulls: (greatest: string | null) =>
    `  ◆ nulls: ${greatest === null ? 'nothing is left' : `no more than ${greatest} is left`}`,
  leaves: (residual: string, greatest: string, mix: string) =>
    `  ▲ does not null: ${residual} is left, up to ${greatest} (mix ${mix})`,
  stem: (name: string, gain: string | null, frames: number, isInverted: boolean) =>
    [
      `    ${name}: ${gain ?? 'silent, or not in the mix'}`,
      ...(frames === 0 ? [] : [`${Math.abs(frames)} frames ${frames > 0 ? 'later' : 'earlier'} in the mix`]),
      ...(isInverted ? ['inverted'] : []),
    ].join(' · '),
  place: (from: string, to: string, residual: string) => `    ${from} – ${to}: ${residual}`,
  fault: (from: string, to: string, words: string) => `  ▲ ${from} – ${to}: ${words}`,
};

export const masterCommandMessages = {
  tracksNeedRendering: '--as-adm needs the rendering that levels are set by: --render 7.1.4',
  tracksHaveAdm: '--as-adm writes the audio definition, and --without-adm leaves it out: take one of them',
  tracksAreLevelled: '--as-adm takes gain and limiter, of all tracks together: no other step, --link or --lfe',
  noLevel: (file: string) => `${file} has no level that gain can change`,
  measuredAgain: (mastered: string) => `  ${mastered}, measured again from the written file:`,
  stopsTheGain: (binding: string, shortfallLu: string) =>
    `  ${binding} stops the gain ${shortfallLu} LU short of the target`,
  usuallyHeard: (reduction: string, muchReductionDb: number) =>
    `  ○ ${reduction}: more than ${muchReductionDb} dB is usually heard`,
  writtenTimes: (passes: number) => `, written ${passes} times`,
  whatWasAsked: 'what was asked',
  asFarAs: (stop: string) => `  as far as ${stop} lets it`,
  realTime: (line: string, timesRealTime: string) => `${line}, ${timesRealTime} × real time`,
  limited: (ceiling: string, greatestDb: string, percentile95Db: string, value: string) =>
    `, limiter${ceiling} up to ${greatestDb} dB (95 % below ${percentile95Db} dB) in ${value} % of the time`,
};

export const filmCommandMessages = {
  programme: (tracks: string, codec: string) => `${tracksText('T', tracks)}, back as ${codec}:`,
  keepsItsTags: 'A film keeps its own tags and cover: none can be stated',
  keepsItsLength: 'Sound that goes back into a film keeps its length: it takes no padding',
  keepsItsTracks: (tracks: string) => `Tracks ${tracks} go back channel by channel: their channels cannot be changed`,
  togetherAsPcm:
    'Tracks that are put together go back channel by channel, as PCM; this film takes them one by one only',
  notInFilm: (codec: string, extension: string, codecs: string) =>
    `${codec} does not go into .${extension}; --codec is one of ${codecs}`,
  copied: (streams: number) =>
    streams === 1
      ? '  1 other stream is copied: its packets are those of the source'
      : `  ${streams} other streams are copied: their packets are those of the source`,
  measuredAgain: (tracks: string, mastered: string) =>
    `  ${tracksText('t', tracks)}: ${mastered}, measured again from the written film:`,
  moved: (milliseconds: number) =>
    `    begins ${Math.abs(milliseconds).toFixed(2)} ms ${milliseconds < 0 ? 'earlier' : 'later'} than it did: the clock of this container counts milliseconds`,
};

export const filmPartMessages = {
  nothingIsCut: '--recode-picture is for a part of a film: --start, --end or --spans says which',
  nothingIsLeft: 'Nothing is left between --start and --end',
  noSoundThere: 'one of its programmes has no sound there',
  cut: ([from, to]: readonly [string, string], isRecoded: boolean) =>
    isRecoded ? `  from ${from} to ${to}, picture re-encoded` : `  from ${from} to ${to}, cut at key frames`,
};

export const spansMessages = {
  none: (list: string) => `${list} names no span of the file`,
  unreadable: (list: string) => `${list} cannot be read`,
  title: (file: string, name: string, from: string, to: string) => `${file}, ${name} (${from} – ${to})`,
  unread: (list: string, line: number, why: UnreadLine['why'], text: string) =>
    `opsimeter: ${list}, line ${line} is left out: ${WHY_UNREAD[why]}: ${text}`,
  withoutDownmix: '--spans and --downmix cannot be combined',
  withoutTrim: '--spans says where each file begins and ends: it takes no --start or --end',
};

const WHY_UNREAD: Readonly<Record<UnreadLine['why'], string>> = {
  'no-times': 'it has no start and end',
  empty: 'its end is not behind its start',
  outside: 'it lies outside the file',
  'no-time-code': 'it is in time code, and the file has none',
};

export const masterOptionsMessages = {
  premasterHasNoLimiter: 'A premaster is only turned down: it has no limiter, no dither and no gain of its own',
  badTag: 'A tag is not valid',
  unknownExtension: (value: string) => `--out ends in one of ${value}`,
  specIsMissing: (specs: string) => `--spec ID is missing (one of ${specs})`,
  unreadableSpec: (file: string) => `${file} is not a readable spec`,
};

export const masteringMessages = {
  lookingForPeaks: 'looking for peaks',
};

export const preparingMessages = {
  nothingLeft: 'Nothing is left between --start and --end',
  needsTwoChannels: (mix: string, channels: number) =>
    `--channels ${mix} needs two channels, and there are ${channels}`,
};

export const printMessages = {
  ofTracks: (file: string, tracks: string) => `${file}, ${tracksText('t', tracks)}`,
  track: ({ number, codec, channels, sampleRateHz, language, title }: SoundTrack) =>
    `  track ${number}: ${[codec, channels === 1 ? '1 channel' : `${channels} channels`, formatSampleRate(sampleRateHz), language, title].filter(Boolean).join(' · ')}`,
  trackGroups: (groups: readonly string[]) =>
    `  These are usually put together: ${groups.map((own) => `--tracks ${own}`).join(', ')}`,
  rmsRemark: ' (re full-scale peak)',
  noiseFloorRemark: ' (quietest half-second, unweighted)',
  clippedRuns: 'Clipped runs',
  checkByHand: (requirement: string) => `    ○ check by hand: ${requirement}`,
};

export const verifyCommandMessages = {
  ofOneFile: 'of one file',
  ofFiles: (count: number) => `of ${count} files, one for each channel, in the order that it names them in`,
  sameBytes: '  ◆ the same bytes as certified',
  otherBytes: (audio: string) => `  ▲ not the certified bytes; ${audio}`,
  sameAudio: 'the audio is the same, its metadata differs',
  otherAudio: 'the audio differs',
  differs: (name: string, level: string, certified: string) => `  ▲ ${name} reads ${level}, certified ${certified}`,
  measuresTheSame: (levels: string) => `  ◆ reads as certified: ${levels}`,
  otherEngine: (certifiedBy: string, readBy: string) => `  ○ certified by engine ${certifiedBy}, read by ${readBy}`,
  inside: (spec: string, version: number, when: string) =>
    `  ◆ inside ${spec}, version ${version}, as certified ${when}`,
  outside: (spec: string, version: number, when: string) =>
    `  ▲ outside ${spec}, version ${version}, as certified ${when}`,
  accepted: (reason: string) => `  ○ accepted: ${reason}`,
  unreadable: (path: string) => `${path} is not a readable certificate`,
};

export const coverMessages = {
  notACover: (path: string) => `${path} is not a PNG or JPEG picture`,
};

export const backupMessages = {
  saved: (path: string, files: number, size: string, copied: string) =>
    `${path}\n  ${files} files, ${size}; ${copied} copied, the others as in the backup before`,
  keyApart: '  The key that seals secrets of receivers is not in it: save that by itself.',
  damaged: (name: string) => `${name} is damaged in the data folder: its bytes are not those that were taken in`,
  restored: (folder: string, madeAt: string, files: number, size: string) =>
    `${folder}\n  as it was on ${madeAt}: ${files} files, ${size}, every hash as it was saved`,
};

export const peopleMessages = {
  peopleUsage: '"people" is followed by list, add NAME or passphrase NAME',
  unknownRole: (roles: string) => `--role is one of ${roles}`,
  notAPerson: (field: string, why: string) => `The ${field} is not valid: ${why}`,
  added: (name: string, role: string) => `${name} was added, as ${role}`,
  changed: (name: string) => `${name} has another passphrase, and has to sign in again`,
  passphrase: 'Passphrase (at least 12 characters): ',
};

/** Such as "track 2", "tracks 1+2". */
function tracksText(initial: 't' | 'T', tracks: string): string {
  return `${initial}rack${/[-+]/.test(tracks) ? 's' : ''} ${tracks}`;
}
