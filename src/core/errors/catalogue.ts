/** What a person reads about an error: what happened, what is safe, what to do. */
export interface ErrorText {
  happened: string;
  safe: string;
  todo: string;
}

type File = { fileName: string };

const NOTHING_TAKEN = 'Nothing was taken in, and nothing else was touched.';
const ALL_SAVED = 'Everything saved before is whole.';

/** Every error that Opsimeter can raise, with its fields and its words. The keys are the codes. */
export const catalogue = {
  'empty-file': (d: File) => ({
    happened: `${d.fileName} is empty: it holds no bytes.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it again, or ask the sender to send it again.',
  }),
  'not-audio': (d: File) => ({
    happened: `${d.fileName} is not a sound file that can be read, whatever its name says.`,
    safe: NOTHING_TAKEN,
    todo: 'Send a WAV, AIFF, FLAC, MP3, M4A, Opus or another usual sound or video file.',
  }),
  'ffmpeg-missing': (d: File) => ({
    happened: `${d.fileName} is neither a WAV nor an AIFF file, and FFmpeg, which opens all others, is not on this machine.`,
    safe: NOTHING_TAKEN,
    todo: 'Install FFmpeg, or name it in OPSIMETER_FFMPEG, and try again; or send the file as WAV.',
  }),
  'no-sound-track': (d: File) => ({
    happened: `${d.fileName} holds no sound that can be decoded.`,
    safe: NOTHING_TAKEN,
    todo: 'Check that it is the right file, or send its sound as WAV.',
  }),
  'decode-failed': (d: File & { reason: string }) => ({
    happened: `${d.fileName} could not be decoded: ${d.reason}.`,
    safe: ALL_SAVED,
    todo: 'Ask for the file again, or for its sound as WAV.',
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
    happened: `It can not be written so: ${d.problem.replace(/[.]$/, '')}.`,
    safe: 'Nothing was written.',
    todo: `The nearest that can be: ${d.nearest}.`,
  }),
  'header-damaged': (d: File & { reason: string }) => ({
    happened: `The header of ${d.fileName} is damaged: ${d.reason}.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it again, or ask the sender to send it again.',
  }),
  'no-audio': (d: File) => ({
    happened: `${d.fileName} has a header but no audio: not one whole frame follows it.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it again; the recording or the transfer stopped before any sound was written.',
  }),
  'no-channels': (d: File) => ({
    happened: `${d.fileName} states that it has zero channels.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it again with one to 24 channels.',
  }),
  'too-many-channels': (d: File & { channels: number }) => ({
    happened: `${d.fileName} has ${d.channels} channels; one to 24 can be measured.`,
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
    happened: `${d.fileName} holds ${d.bitDepth}-bit ${d.sampleFormat} samples, which can not be read.`,
    safe: NOTHING_TAKEN,
    todo: 'Export it as 8, 16, 24 or 32-bit integer, or 32 or 64-bit float.',
  }),
  'file-missing': (d: File) => ({
    happened: `${d.fileName} could not be opened: there is no such file.`,
    safe: ALL_SAVED,
    todo: 'Check the name and the folder.',
  }),
  'file-unreadable': (d: File & { reason: string }) => ({
    happened: `${d.fileName} could not be read (${d.reason}).`,
    safe: ALL_SAVED,
    todo: 'Check that it is a file, that you may read it, and that its disk is there.',
  }),
  'channels-moved': (d: File) => ({
    happened: `Decoded again, the channels of ${d.fileName} do not stand where they were put: its coder moves or mixes them.`,
    safe: 'Nothing was handed over, and the source was not touched.',
    todo: 'Write it as FLAC or WAV, which keep every channel, or in another layout.',
  }),
  'delivery-altered': (d: File) => ({
    happened: `${d.fileName} is not the file that was written and verified: its bytes have changed since.`,
    safe: 'Its source, its settings and what was measured are whole. The changed file was neither sent nor certified.',
    todo: 'Write its row again, and look for what has changed the file: another program, or a failing disk.',
  }),
  'source-damaged': (d: File) => ({
    happened: `The stored copy of ${d.fileName} is damaged: its bytes are not those that were taken in.`,
    safe: 'Nothing was written from it. Everything that was written before is whole.',
    todo: 'Take the original file in again. If this happens twice, have the disk checked.',
  }),
  'file-exists': (d: File) => ({
    happened: `${d.fileName} is already there, and nothing is ever overwritten.`,
    safe: 'The file that is there was not touched.',
    todo: 'Choose another name, or move the old file away first.',
  }),
  'not-writable': (d: File & { reason: string }) => ({
    happened: `${d.fileName} could not be written (${d.reason}).`,
    safe: `No half-written file was left behind. ${ALL_SAVED}`,
    todo: 'Check the folder, its permissions and the free space, then try again.',
  }),
  'would-clip': (d: { samplePeakDbfs: number; file: string }) => ({
    happened: `With this gain the highest sample would stand ${d.samplePeakDbfs.toFixed(1)} dB above full scale, and ${d.file} can not hold that: it would be clipped.`,
    safe: 'Nothing was written.',
    todo: 'Lower the gain (C stops at the ceiling), or write 32-bit float.',
  }),
  'changed-elsewhere': (d: { title: string }) => ({
    happened: `${d.title} was changed in another window meanwhile, so that what you set here was not saved.`,
    safe: 'What the other window set is kept, and can be undone there and here.',
    todo: 'Reload this page to see it, and set again what you still want.',
  }),
  'nothing-to-measure': (d: { reason: string }) => ({
    happened: `No gain can be worked out: ${d.reason}.`,
    safe: 'Nothing was written.',
    todo: 'Take in a programme that is at least 400 ms long and is not silent.',
  }),
  'unknown-spec': (d: { specId: string; known: readonly string[] }) => ({
    happened: `There is no spec "${d.specId}".`,
    safe: '',
    todo: `Known specs: ${d.known.join(', ')}.`,
  }),
  'built-in-spec': (d: { name: string }) => ({
    happened: `${d.name} is built in and stays as its document has it.`,
    safe: ALL_SAVED,
    todo: 'Make a copy of it, and change that.',
  }),
  usage: (d: { reason: string }) => ({ happened: `${d.reason}.`, safe: '', todo: 'See "opsimeter --help".' }),
  'not-found': (d: { what: string }) => ({
    happened: `This ${d.what} is not there (any more).`,
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
    happened: `The transfer of ${d.fileName} stopped before its end.`,
    safe: `What had arrived was removed. ${ALL_SAVED}`,
    todo: 'Drop the file again.',
  }),
  'not-measured': (d: { title: string }) => ({
    happened: `${d.title} has not been measured yet.`,
    safe: ALL_SAVED,
    todo: 'Wait until its readings are there, or start the measurement again.',
  }),
  'source-changed': (d: File) => ({
    happened: `${d.fileName} became shorter while it was read.`,
    safe: 'Nothing was written.',
    todo: 'Check the disk it lies on, and take the file in again.',
  }),
  'no-room-tone': (d: File) => ({
    happened: `${d.fileName} has no room tone that could be found: no half-second of it is soft and even, without voice or digital silence.`,
    safe: 'Nothing was written.',
    todo: 'Mark half a second of room tone as a span and take it from there, or add digital silence instead.',
  }),
  'reference-changed': (d: File & { path: string }) => ({
    happened: `${d.fileName} is not what was taken in any more: ${d.path} holds other bytes now.`,
    safe: `Nothing was written. ${ALL_SAVED}`,
    todo: 'Put the old file back, or take the new one in as another programme.',
  }),
  'outside-media': (d: { path: string }) => ({
    happened: `${d.path} is not inside a folder that OPSIMETER_MEDIA names.`,
    safe: NOTHING_TAKEN,
    todo: 'Choose a file inside one of these folders, or name its folder there.',
  }),
  'not-a-job': (d: File & { reason: string }) => ({
    happened: `${d.fileName} is not a job that Opsimeter can bring in: ${d.reason}.`,
    safe: `Nothing was brought in. ${ALL_SAVED}`,
    todo: 'Export the job again, and check that the file arrived whole.',
  }),
  'worker-died': (d: { reason: string }) => ({
    happened: `The computation stopped unexpectedly (${d.reason}).`,
    safe: ALL_SAVED,
    todo: 'Try again; if it stops again, check the free memory and disk space.',
  }),
  'not-a-picture': (d: { reason: string }) => ({
    happened: `This can not be a cover: ${d.reason}.`,
    safe: `The cover that was there is still there. ${ALL_SAVED}`,
    todo: 'Choose a PNG or JPEG picture.',
  }),
  'receiver-unreached': (d: { reason: string }) => ({
    happened: `The receiver could not be reached: ${d.reason}.`,
    safe: `What has got there is gone on from. ${ALL_SAVED}`,
    todo: 'It is tried again by itself.',
  }),
  'receiver-refuses': (d: { reason: string }) => ({
    happened: `The receiver refuses it: ${d.reason}.`,
    safe: ALL_SAVED,
    todo: 'Change what it does not take, and send it again.',
  }),
  'not-sent': (d: { name: string; tries: number; reason: string }) => ({
    happened: `${d.name} could not be reached in ${d.tries} tries: ${d.reason}.`,
    safe: `The file is here, whole. ${ALL_SAVED}`,
    todo: 'Check the line and the address of the receiver, and try again.',
  }),
  'not-signed': () => ({
    happened: 'It is not signed with the secret of this desk.',
    safe: 'Nothing was taken in.',
    todo: 'Set the secret that the desk has been given.',
  }),
  'out-of-step': (d: File & { received: number; start: number }) => ({
    happened: `${d.fileName} goes on at byte ${d.received}, not at ${d.start}.`,
    safe: 'What has arrived is kept.',
    todo: 'Ask how much there is, and go on from there.',
  }),
  cancelled: () => ({ happened: 'Cancelled.', safe: ALL_SAVED, todo: '' }),
  unexpected: (d: { reason: string }) => ({
    happened: `Something unexpected happened: ${d.reason}.`,
    safe: ALL_SAVED,
    todo: 'Try again; if it comes back, keep this sentence with your report.',
  }),
} satisfies Record<string, (details: never) => ErrorText>;

export type ErrorCode = keyof typeof catalogue;

type FirstParameter<F> = F extends (details: infer D) => unknown ? D : never;
export type ErrorDetails<C extends ErrorCode> = C extends 'cancelled' | 'not-signed'
  ? Record<string, never>
  : FirstParameter<(typeof catalogue)[C]>;
