import { formatBytes } from '../units/format';

/** What a person reads about an error: what happened, what is safe, what to do. */
export interface ErrorText {
  happened: string;
  safe: string;
  todo: string;
}

type File = { fileName: string };

const NOTHING_TAKEN = 'Nothing was taken in, and nothing else was changed.';
const ALL_SAVED = 'Everything saved before is safe.';

/** Every error that Opsimeter can raise, with its fields and its words. The keys are the codes. */
export const catalogue = {
  'empty-file': (d: File) => ({
    happened: `${d.fileName} is empty: it holds no bytes.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it again, or ask the sender to send it again.',
  }),
  'not-audio': (d: File) => ({
    happened: `${d.fileName} is not a sound file that can be read, whatever its extension.`,
    safe: NOTHING_TAKEN,
    todo: 'Send a WAV, AIFF, FLAC, MP3, M4A, Opus or another common sound or video file.',
  }),
  'ffmpeg-missing': (d: File) => ({
    happened: `${d.fileName} is neither WAV nor AIFF, and FFmpeg, which opens all other formats, is not installed.`,
    safe: NOTHING_TAKEN,
    todo: 'Install FFmpeg, or name it in OPSIMETER_FFMPEG, and try again; or send the file as WAV.',
  }),
  'no-sound-track': (d: File) => ({
    happened: `${d.fileName} holds no sound that can be decoded.`,
    safe: NOTHING_TAKEN,
    todo: 'Check that it is the right file, or send its sound as WAV.',
  }),
  'no-such-track': (d: File & { track: number; of: number }) => ({
    happened: `${d.fileName} has no sound track ${d.track}: it has ${d.of}.`,
    safe: NOTHING_TAKEN,
    todo: d.of === 1 ? 'Take its one track.' : `Choose tracks from 1 to ${d.of}.`,
  }),
  'tracks-differ': (d: File & { ratesHz: readonly [number, number] }) => ({
    happened: `Tracks of ${d.fileName} cannot be put together: one is at ${d.ratesHz[0]} Hz, another at ${d.ratesHz[1]} Hz.`,
    safe: NOTHING_TAKEN,
    todo: 'Choose tracks of one sample rate.',
  }),
  'film-kind-differs': (d: File & { is: string; extension: string }) => ({
    happened: `The sound of ${d.fileName} goes back into a file of its own kind, which is ${d.is}.`,
    safe: 'Nothing was written.',
    todo: `Choose a name that ends in .${d.extension}.`,
  }),
  'film-not-copied': (d: File & { reason: string }) => ({
    happened: `${d.fileName} could not be written, since FFmpeg cannot copy everything of its film: ${d.reason}.`,
    safe: `No half-written file was left behind. ${ALL_SAVED}`,
    todo: 'Write the sound as a WAV, and put it into the film where the film was made.',
  }),
  'film-not-cut': (d: File & { reason: string }) => ({
    happened: `${d.fileName} cannot be cut there: ${d.reason}.`,
    safe: 'Nothing was written.',
    todo: 'Choose another span, have its picture re-encoded (--recode-picture), or write its sound alone.',
  }),
  'no-picture': (d: File & { reason: string }) => ({
    happened: `The picture of ${d.fileName} cannot be shown: ${d.reason}.`,
    safe: ALL_SAVED,
    todo: 'Its sound is measured, heard and written all the same.',
  }),
  'sound-moved': (d: File & { milliseconds: number }) => ({
    happened: `${d.fileName} was written and read again: its sound begins ${d.milliseconds} ms from where it did.`,
    safe: `The file was removed. ${ALL_SAVED}`,
    todo: 'Write the sound as a WAV, and put it into the film where the film was made.',
  }),
  'decode-failed': (d: File & { reason: string }) => ({
    happened: `${d.fileName} could not be decoded: ${d.reason}.`,
    safe: ALL_SAVED,
    todo: 'Ask for the file again, or for its sound as WAV.',
  }),
  'took-too-long': (d: File & { seconds: number }) => ({
    happened: `FFmpeg was ended after ${d.seconds} s, without being done with ${d.fileName}.`,
    safe: `No half-written file was left behind. ${ALL_SAVED}`,
    todo: 'Try again. If it happens again, send the sound as WAV.',
  }),
  'encode-failed': (d: File & { reason: string }) => ({
    happened: `${d.fileName} could not be encoded: ${d.reason}.`,
    safe: `No half-written file was left behind. ${ALL_SAVED}`,
    todo: 'Choose another format, or write it as WAV.',
  }),
  'not-as-written': (d: File) => ({
    happened: `${d.fileName} does not read back as it was written.`,
    safe: `It was not handed over. ${ALL_SAVED}`,
    todo: 'Check the disk, and write it again.',
  }),
  'format-impossible': (d: { problem: string; nearest: string }) => ({
    happened: `Unsupported format: ${d.problem.replace(/[.]$/, '')}.`,
    safe: 'Nothing was written.',
    todo: `The nearest that is supported: ${d.nearest}.`,
  }),
  'header-damaged': (d: File & { reason: string }) => ({
    happened: `The header of ${d.fileName} is damaged: ${d.reason}.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it again, or ask the sender to send it again.',
  }),
  'adm-damaged': (d: File & { reason: string }) => ({
    happened: `The audio definition (ADM) of ${d.fileName} cannot be read: ${d.reason}.`,
    safe: 'Nothing was written, and the file was not changed.',
    todo: 'Export it again; or measure and write its channels as they are.',
  }),
  'adm-not-rendered': (d: File & { programme: string; reason: string }) => ({
    happened: `The audio programme “${d.programme}” of ${d.fileName} cannot be rendered as it is meant: ${d.reason}.`,
    safe: 'Nothing was written, and the file was not changed.',
    todo: 'Render it where it was made, and measure that; or measure its channels as they are.',
  }),
  'no-adm': (d: File) => ({
    happened: `${d.fileName} has no audio definition (ADM) to render.`,
    safe: 'Nothing was written.',
    todo: 'Leave --render out to measure its channels as they are.',
  }),
  'no-such-programme': (d: File & { programme: string; known: string }) => ({
    happened: `${d.fileName} has no audio programme ${d.programme}.`,
    safe: 'Nothing was written.',
    todo: `Choose one of these: ${d.known}.`,
  }),
  'no-audio': (d: File) => ({
    happened: `${d.fileName} has a header but no audio.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it again: the recording or the copy stopped before any sound was written.',
  }),
  'no-channels': (d: File) => ({
    happened: `The header of ${d.fileName} states zero channels.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it again with 1 to 24 channels.',
  }),
  'too-many-channels': (d: File & { channels: number }) => ({
    happened: `${d.fileName} has ${d.channels} channels; 1 to 24 can be measured.`,
    safe: NOTHING_TAKEN,
    todo: 'Export a layout of up to 24 channels.',
  }),
  'unsupported-rate': (d: File & { sampleRateHz: number }) => ({
    happened: `${d.fileName} states a sample rate of ${d.sampleRateHz} Hz; 8000 to 384000 Hz can be measured.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it again at its true rate.',
  }),
  'unsupported-codec': (d: File & { formatTag: string }) => ({
    happened: `${d.fileName} holds compressed audio (format tag ${d.formatTag}), not PCM samples.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it as PCM: 16, 24 or 32-bit integer, or 32-bit float.',
  }),
  'unsupported-depth': (d: File & { bitDepth: number; sampleFormat: string }) => ({
    happened: `${d.fileName} holds ${d.bitDepth}-bit ${d.sampleFormat} samples, which cannot be read.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it as 8, 16, 24 or 32-bit integer, or 32 or 64-bit float.',
  }),
  'file-missing': (d: File) => ({
    happened: `${d.fileName} could not be opened: no such file.`,
    safe: ALL_SAVED,
    todo: 'Check the name and the folder.',
  }),
  'file-unreadable': (d: File & { reason: string }) => ({
    happened: `${d.fileName} could not be read (${d.reason}).`,
    safe: ALL_SAVED,
    todo: 'Check that it is a file, that you may read it, and that its disk is connected.',
  }),
  'channels-moved': (d: File) => ({
    happened: `Decoded again, ${d.fileName} has its channels in another order: its encoder moved or mixed them.`,
    safe: 'Nothing was handed over, and the source was not changed.',
    todo: 'Write FLAC or WAV, which keep every channel, or another layout.',
  }),
  'delivery-altered': (d: File) => ({
    happened: `${d.fileName} is not the file that was written and verified: its bytes have changed since.`,
    safe: 'Its source, settings and readings are safe. The changed file was neither sent nor certified.',
    todo: 'Write its row again, and find out what changed the file: another program, or a failing disk.',
  }),
  'source-damaged': (d: File) => ({
    happened: `The stored copy of ${d.fileName} is damaged: its bytes are not those that were taken in.`,
    safe: 'Nothing was written from it. Everything that was written before is whole.',
    todo: 'Take the original file in again. If this happens twice, have the disk checked.',
  }),
  'line-not-opened': (d: { line: string; reason: string }) => ({
    happened: `${d.line} could not be opened: ${d.reason}.`,
    safe: 'Nothing was measured or recorded.',
    todo: 'Check the address, and that something is sent there; then try again.',
  }),
  'line-lost': (d: { line: string; reason: string }) => ({
    happened: `The connection to ${d.line} was lost: ${d.reason}.`,
    safe: 'What came before is measured, and recorded where that was asked.',
    todo: 'Start again once the line is back.',
  }),
  'too-long-to-follow': (d: File) => ({
    happened: `${d.fileName} is too long to be measured while it grows.`,
    safe: ALL_SAVED,
    todo: 'It is measured as a whole instead.',
  }),
  'recording-interrupted': (d: File) => ({
    happened: `Opsimeter was ended while ${d.fileName} was recorded.`,
    safe: 'All of the recording but at most its last second is there.',
    todo: 'Check its end.',
  }),
  'line-not-allowed': (d: { host: string }) => ({
    happened: `This server may not open lines from ${d.host}.`,
    safe: ALL_SAVED,
    todo: 'Name the host in OPSIMETER_LINE_HOSTS, separated by commas from others, and start the app again.',
  }),
  'line-off': (d: { name: string }) => ({
    happened: `${d.name} is not on.`,
    safe: ALL_SAVED,
    todo: 'Turn the line on first.',
  }),
  'input-elsewhere': (d: { name: string }) => ({
    happened: `${d.name} is sent by another window now.`,
    safe: 'What this window has sent was measured, and recorded where that was asked.',
    todo: 'Connect here again to take it back.',
  }),
  'already-recording': (d: { name: string }) => ({
    happened: `${d.name} is being recorded already.`,
    safe: 'The recording goes on.',
    todo: 'Stop it first, then begin another.',
  }),
  'pass-not-found': (d: File) => ({
    happened: `Nothing of what was sent was found in what came back of ${d.fileName}.`,
    safe: ALL_SAVED,
    todo: 'Check the cables, the input and its level, then send it again.',
  }),
  'pass-interrupted': (d: { title: string; reason: string }) => ({
    happened: `The pass of ${d.title} was interrupted: ${d.reason}.`,
    safe: ALL_SAVED,
    todo: 'Send it again.',
  }),
  'file-exists': (d: File) => ({
    happened: `${d.fileName} already exists, and nothing is ever overwritten.`,
    safe: 'The existing file was not changed.',
    todo: 'Choose another name, or move the old file away first.',
  }),
  'not-writable': (d: File & { reason: string }) => ({
    happened: `${d.fileName} could not be written (${d.reason}).`,
    safe: `No half-written file was left behind. ${ALL_SAVED}`,
    todo: 'Check the folder, its permissions and the free space, then try again.',
  }),
  'would-clip': (d: { samplePeakDbfs: number; file: string }) => ({
    happened: `With this gain the sample peak would be ${d.samplePeakDbfs.toFixed(1)} dB over full scale, and ${d.file} would clip it.`,
    safe: 'Nothing was written.',
    todo: 'Lower the gain (C stops at the ceiling), or write 32-bit float.',
  }),
  'changed-elsewhere': (d: { title: string }) => ({
    happened: `${d.title} was changed in another window, so your change here was not saved.`,
    safe: 'What the other window has set is saved.',
    todo: 'See them as they are now, then make your change again if it is still wanted.',
  }),
  'nothing-to-measure': (d: { reason: string }) => ({
    happened: `No gain can be calculated: ${d.reason}.`,
    safe: 'Nothing was written.',
    todo: 'Take in a programme that is at least 400 ms long and is not silent.',
  }),
  'unknown-spec': (d: { specId: string; known: readonly string[] }) => ({
    happened: `There is no spec "${d.specId}".`,
    safe: '',
    todo: `Known specs: ${d.known.join(', ')}.`,
  }),
  'built-in-spec': (d: { name: string }) => ({
    happened: `${d.name} is built in and read-only.`,
    safe: ALL_SAVED,
    todo: 'Make a copy, and change that.',
  }),
  usage: (d: { reason: string }) => ({ happened: `${d.reason}.`, safe: '', todo: 'See "opsimeter --help".' }),
  'not-found': (d: { what: string }) => ({
    happened: `This ${d.what} does not exist, or was deleted.`,
    safe: ALL_SAVED,
    todo: 'Go back to the list and choose another.',
  }),
  'bad-request': (d: { reason: string }) => ({
    happened: `The request could not be understood: ${d.reason}.`,
    safe: ALL_SAVED,
    todo: 'Reload the page and try again.',
  }),
  'data-in-use': (d: { path: string }) => ({
    happened: `Another Opsimeter is already working on the data in ${d.path}.`,
    safe: ALL_SAVED,
    todo: 'Use the one that is running, or set OPSIMETER_DATA to another folder.',
  }),
  'upload-interrupted': (d: File) => ({
    happened: `The upload of ${d.fileName} was interrupted.`,
    safe: `The part that had arrived was deleted. ${ALL_SAVED}`,
    todo: 'Drop the file again.',
  }),
  'overlap-too-long': (d: { reason: string }) => ({
    happened: `These programmes cannot be played in this order: ${d.reason}.`,
    safe: ALL_SAVED,
    todo: 'Make the overlap shorter.',
  }),
  'not-alike': (d: { title: string; channels: number; other: string; otherChannels: number }) => ({
    happened: `One file cannot hold ${d.title} (${d.channels} channels) and ${d.other} (${d.otherChannels} channels) as they are.`,
    safe: 'Nothing was written.',
    todo: 'Write it in mono, or leave one out.',
  }),
  'stem-differs': (d: { title: string; difference: string }) => ({
    happened: `${d.title} cannot be compared with its mix: ${d.difference}.`,
    safe: ALL_SAVED,
    todo: 'Export the stem again as the mix was exported, or take it out of the line-up.',
  }),
  'no-output-folder': () => ({
    happened: 'This server has no output folder.',
    safe: ALL_SAVED,
    todo: 'Name one in OPSIMETER_OUTPUT and start the app again, or download everything as one ZIP.',
  }),
  'no-mix': (d: { name: string }) => ({
    happened: `It is not known which programme of ${d.name} is the mix that its stems add up to.`,
    safe: ALL_SAVED,
    todo: 'Choose the mix, and take it into the line-up if it is not there.',
  }),
  'chapters-not-delivered': (d: { chapters: number; titles: string }) => ({
    happened: `${d.chapters === 1 ? '1 chapter has' : `${d.chapters} chapters have`} no verified file with the current settings: ${d.titles}.`,
    safe: `Nothing was written. ${ALL_SAVED}`,
    todo: 'Deliver all chapters first; what keeps one from its spec is said there.',
  }),
  'sounds-not-delivered': (d: { sounds: number; titles: string }) => ({
    happened: `${d.sounds === 1 ? '1 programme has' : `${d.sounds} programmes have`} no verified file that can go back into the film: ${d.titles}.`,
    safe: `Nothing was written. ${ALL_SAVED}`,
    todo: 'Deliver them first, in a format that the film takes.',
  }),
  'chapters-not-alike': (d: { title: string; format: string; other: string; otherFormat: string }) => ({
    happened: `The chapters have different formats: ${d.title} is ${d.format}, ${d.other} is ${d.otherFormat}.`,
    safe: `Nothing was written. ${ALL_SAVED}`,
    todo: 'Deliver all chapters in one format.',
  }),
  'sample-misses': (d: { title: string; reason: string }) => ({
    happened: `The retail sample, a span of ${d.title}, cannot be written: ${d.reason}.`,
    safe: `Nothing was written. ${ALL_SAVED}`,
    todo: 'Choose another span, or write the book without a sample.',
  }),
  'no-target': (d: { spec: string; measure: string }) => ({
    happened: `${d.spec} has no target for ${d.measure}.`,
    safe: 'Nothing was changed.',
    todo: 'Choose a spec that has one.',
  }),
  'not-measured': (d: { title: string }) => ({
    happened: `${d.title} has not been measured yet.`,
    safe: ALL_SAVED,
    todo: 'Wait for its readings, or start the measurement again.',
  }),
  'source-changed': (d: File) => ({
    happened: `${d.fileName} became shorter while it was read.`,
    safe: 'Nothing was written.',
    todo: 'Check the disk it lies on, and take the file in again.',
  }),
  'no-room-tone': (d: File) => ({
    happened: `${d.fileName} has no usable room tone: no half-second of it is quiet and even, without voice or digital silence.`,
    safe: 'Nothing was written.',
    todo: 'Select half a second of room tone as a span and use that, or pad with digital silence.',
  }),
  'reference-changed': (d: File & { path: string }) => ({
    happened: `${d.fileName} has changed since it was taken in: ${d.path} holds other bytes now.`,
    safe: `Nothing was written. ${ALL_SAVED}`,
    todo: 'Put the old file back, or take the new one in as another programme.',
  }),
  'outside-media': (d: { path: string }) => ({
    happened: `${d.path} is not inside a folder that OPSIMETER_MEDIA names.`,
    safe: NOTHING_TAKEN,
    todo: 'Choose a file inside one of these folders, or name its folder there.',
  }),
  'not-a-job': (d: File & { reason: string }) => ({
    happened: `${d.fileName} is not a job that Opsimeter can import: ${d.reason}.`,
    safe: `Nothing was imported. ${ALL_SAVED}`,
    todo: 'Export the job again, and check that the file is complete.',
  }),
  'worker-died': (d: { reason: string }) => ({
    happened: `The computation stopped unexpectedly (${d.reason}).`,
    safe: ALL_SAVED,
    todo: 'Try again; if it stops again, check the free memory and disk space.',
  }),
  'not-a-picture': (d: { reason: string }) => ({
    happened: `This cannot be used as a cover: ${d.reason}.`,
    safe: `The old cover was not changed. ${ALL_SAVED}`,
    todo: 'Choose a PNG or JPEG picture.',
  }),
  'receiver-unreached': (d: { reason: string }) => ({
    happened: `The receiver could not be reached: ${d.reason}.`,
    safe: `The transfer will resume. ${ALL_SAVED}`,
    todo: 'Retrying automatically.',
  }),
  'receiver-refuses': (d: { reason: string }) => ({
    happened: `The receiver refused it: ${d.reason}.`,
    safe: ALL_SAVED,
    todo: 'Change what it does not accept, and send it again.',
  }),
  'not-sent': (d: { name: string; tries: number; reason: string }) => ({
    happened: `${d.name} could not be reached in ${d.tries} attempts: ${d.reason}.`,
    safe: `The file here is complete. ${ALL_SAVED}`,
    todo: 'Check the connection and the address of the receiver, then try again.',
  }),
  'not-signed': () => ({
    happened: 'It is not signed with the secret of this intake.',
    safe: 'Nothing was taken in.',
    todo: 'Set the secret that the intake has.',
  }),
  'out-of-step': (d: File & { received: number; start: number }) => ({
    happened: `${d.fileName} resumes at byte ${d.received}, not at ${d.start}.`,
    safe: 'What has arrived is safe.',
    todo: 'Ask how much has arrived, and resume there.',
  }),
  'not-signed-in': () => ({
    happened: 'You are not signed in.',
    safe: ALL_SAVED,
    todo: 'Sign in, then try again.',
  }),
  'not-allowed': (d: { role: string }) => ({
    happened: `This is not for ${d.role}.`,
    safe: 'Nothing was changed.',
    todo: 'Ask an engineer to do it, or to give you that role.',
  }),
  'wrong-passphrase': () => ({
    happened: 'The name or the passphrase is wrong.',
    safe: ALL_SAVED,
    todo: 'Check both. After five failures you have to wait a quarter of an hour.',
  }),
  'too-many-attempts': (d: { minutes: number }) => ({
    happened: 'There were too many attempts to sign in.',
    safe: ALL_SAVED,
    todo: `Try again in ${d.minutes} min, or ask an engineer for a new passphrase.`,
  }),
  'name-taken': (d: { name: string }) => ({
    happened: `There is a person called ${d.name} already.`,
    safe: 'Nothing was changed.',
    todo: 'Choose another name.',
  }),
  'last-engineer': (d: { name: string }) => ({
    happened: `${d.name} is the only engineer, and nobody else could add people.`,
    safe: 'Nothing was changed.',
    todo: 'Make somebody else an engineer first.',
  }),
  'too-busy': () => ({
    happened: 'The server is receiving as many files as it can at once.',
    safe: 'Nothing of this file was taken in. What is being received goes on.',
    todo: 'Try again in a few seconds.',
  }),
  'too-large': (d: { what: string; most: string }) => ({
    happened: `${d.what} is larger than ${d.most}, the most that is taken.`,
    safe: `Nothing of it was taken in. ${ALL_SAVED}`,
    todo: 'Send less at once.',
  }),
  'no-room': (d: File & { neededBytes: number; freeBytes: number }) => ({
    happened: `${d.fileName} needs ${formatBytes(d.neededBytes)} of the server’s disk; ${formatBytes(d.freeBytes)} are free for it.`,
    safe: NOTHING_TAKEN,
    todo: 'Free some space on the server’s disk, then try again.',
  }),
  'disk-full': (d: { reason: string }) => ({
    happened: `This could not be saved: ${d.reason}.`,
    safe: ALL_SAVED,
    todo: 'Free some space on the server’s disk, then try again.',
  }),
  'data-folder-gone': (d: { path: string }) => ({
    happened: `The data folder ${d.path} is not there any more, or another one has taken its place.`,
    safe: 'Nothing of what was just asked was saved.',
    todo: 'Put the folder back where it was, or end the app and start it again.',
  }),
  'database-newer': (d: { path: string }) => ({
    happened: `The database ${d.path} was written by a newer version of Opsimeter.`,
    safe: 'Nothing in it was changed.',
    todo: 'Use that version or a newer one, or set OPSIMETER_DATA to another folder.',
  }),
  'database-damaged': (d: { path: string; reason: string }) => ({
    happened: `The database ${d.path} is damaged: ${d.reason}.`,
    safe: 'Nothing in it was changed.',
    todo: 'Restore it from a backup, and have the disk checked.',
  }),
  'backup-under-way': (d: { path: string }) => ({
    happened: `Another backup into ${d.path} is under way.`,
    safe: 'It goes on.',
    todo: 'Wait for its end, or choose another folder.',
  }),
  'backup-damaged': (d: { path: string; reason: string }) => ({
    happened: `The backup ${d.path} is damaged: ${d.reason}.`,
    safe: 'Nothing was restored from it, and nothing was changed.',
    todo: 'Restore an earlier one by naming its folder, and have the disk checked.',
  }),
  'set-aside': (d: { times: number }) => ({
    happened: `This was begun ${d.times} times, and each time the app ended before it was done.`,
    safe: ALL_SAVED,
    todo: 'Try it again while nothing else runs. If the app ends again, leave it out, and report it.',
  }),
  'job-in-use': (d: { name: string; line: string }) => ({
    happened: `${d.name} cannot be deleted: recordings of ${d.line} are taken into it.`,
    safe: 'Nothing was changed.',
    todo: 'Give that line another job, or remove it first.',
  }),
  'outside-drop-folders': (d: { path: string }) => ({
    happened: `${d.path} is not inside a folder that OPSIMETER_DROP_FOLDERS names.`,
    safe: 'Nothing was put there.',
    todo: 'Choose a folder inside one of these, or name it there and start the app again.',
  }),
  'secret-unreadable': (d: { name: string }) => ({
    happened: `The secret of ${d.name} cannot be read with the key of this server.`,
    safe: `Nothing was sent. ${ALL_SAVED}`,
    todo: 'Put the key file back, or enter the secret of this receiver again.',
  }),
  'server-unreached': () => ({
    happened: 'The server did not answer.',
    safe: `Whether this was done is not known. ${ALL_SAVED}`,
    todo: 'Check that it runs and that the network is there; the page shows what was done as soon as it answers.',
  }),
  cancelled: () => ({ happened: 'Cancelled.', safe: ALL_SAVED, todo: '' }),
  unexpected: (d: { reason: string }) => ({
    happened: `Something unexpected happened: ${d.reason}.`,
    safe: ALL_SAVED,
    todo: 'Try again; if it happens again, include this sentence in your report.',
  }),
} satisfies Record<string, (details: never) => ErrorText>;

export type ErrorCode = keyof typeof catalogue;

export const ERROR_CODES: ReadonlySet<string> = new Set(Object.keys(catalogue));

type FirstParameter<F> = F extends (details: infer D) => unknown ? D : never;
export type ErrorDetails<C extends ErrorCode> = C extends
  | 'not-signed-in'
  | 'wrong-passphrase'
  | 'cancelled'
  | 'not-signed'
  | 'server-unreached'
  | 'too-busy'
  ? Record<string, never>
  : FirstParameter<(typeof catalogue)[C]>;
