/**
 * FFmpeg as a guest: found by OPSIMETER_FFMPEG or the PATH, each run a process of its own that opens local files only,
 * of the kinds below only, and that ends when it is cancelled or takes too long. A line (`line.ts`) is the exception: it may be an address,
 * and has no end of its own.
 */
import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { dirname, join } from 'node:path';
import { createInterface } from 'node:readline';
import { AppError } from '@/core/errors/app-error';

/** Demuxers that may open a file: none that names other files. */
export const DEMUXERS = [
  'aac',
  'ac3',
  'caf',
  'eac3',
  'flac',
  'matroska,webm',
  'mov,mp4,m4a,3gp,3g2,mj2',
  'mp3',
  'mxf',
  'ogg',
  'w64',
  'wv',
];
/** For the file to be opened; a name that looks like a protocol is still a file's. */
export const INPUT_GUARDS = ['-protocol_whitelist', 'file', '-format_whitelist', DEMUXERS.join(',')];
/** For a WAV that we have written ourselves. */
export const OWN_WAV_GUARDS = ['-protocol_whitelist', 'file', '-format_whitelist', 'wav', '-f', 'wav'];
/** Enough of what a process says for a person to read. */
const MOST_STDERR = 64_000;

export interface RunLimits {
  signal?: AbortSignal | undefined;
  /** The process is killed after so long. */
  timeoutMs: number;
  /** Called with each piece of what the process prints; what is thrown ends the process. */
  onOutput: (text: string) => void;
  /** What a failure is called; `decode-failed` unless it is said. */
  fail?: ((fileName: string, reason: string) => AppError) | undefined;
}

/** A timer that is set for longer ends at once: a file may state any length. */
const LONGEST_TIMER_MS = 2 ** 31 - 1;

/** What `setpriv` ends with where there is no such program. */
const NOT_FOUND = 127;

const decodeFailed = (fileName: string, reason: string) => new AppError('decode-failed', { fileName, reason });

/**
 * Runs `ffmpeg` or `ffprobe` and returns what it complained of. Throws `ffmpeg-missing`, `cancelled`, or `decode-failed`
 * (or what else a failure is called) with the process's last words.
 */
export async function runFfmpeg(
  program: 'ffmpeg' | 'ffprobe',
  args: readonly string[],
  fileName: string,
  { signal, timeoutMs, onOutput, fail = decodeFailed }: RunLimits,
): Promise<string> {
  if (signal?.aborted) throw new AppError('cancelled', {});
  const child = spawnMortal(programPath(program), args);
  let stderr = '';
  let ending: AppError | undefined;
  const end = (error: AppError) => {
    ending ??= error;
    child.kill('SIGKILL');
  };
  const cancel = () => end(new AppError('cancelled', {}));
  const timer = setTimeout(
    () => end(new AppError('took-too-long', { fileName, seconds: timeoutMs / 1000 })),
    Math.min(timeoutMs, LONGEST_TIMER_MS),
  );
  signal?.addEventListener('abort', cancel);
  child.stdout.setEncoding('utf8').on('data', (text: string) => {
    try {
      onOutput(text);
    } catch (error) {
      end(error instanceof AppError ? error : new AppError('unexpected', { reason: String(error) }));
    }
  });
  child.stderr.setEncoding('utf8').on('data', (text: string) => {
    stderr = (stderr + text).slice(-MOST_STDERR);
  });
  try {
    const { exitCode, endedBy } = await new Promise<{ exitCode: number | null; endedBy: NodeJS.Signals | null }>(
      (resolve, reject) => {
        child.on('error', reject);
        child.on('close', (code, by) => resolve({ exitCode: code, endedBy: by }));
      },
    );
    if (ending) throw ending;
    if (exitCode === NOT_FOUND && /^setpriv: failed to execute/.test(stderr)) {
      throw new AppError('ffmpeg-missing', { fileName });
    }
    // What the system ends a program with that writes more than its user may.
    const said = endedBy === 'SIGXFSZ' ? 'File too large' : stderr;
    if (exitCode !== 0) throw noRoom(fileName, said) ?? fail(fileName, lastWords(stderr));
    return stderr;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') throw new AppError('ffmpeg-missing', { fileName });
    throw error;
  } finally {
    clearTimeout(timer);
    signal?.removeEventListener('abort', cancel);
  }
}

/** What the C library calls a disk that takes no more. */
const NO_ROOM: Readonly<Record<string, string>> = {
  'No space left on device': 'the disk is full',
  'Disk quota exceeded': 'the disk quota is used up',
  'File too large': 'it is larger than this disk or user may hold',
};

/** What FFmpeg met was no fault of the sound, but a disk that takes no more. */
function noRoom(fileName: string, stderr: string): AppError | undefined {
  const said = Object.keys(NO_ROOM).find((words) => stderr.includes(words));
  return said === undefined ? undefined : new AppError('not-writable', { fileName, reason: NO_ROOM[said] as string });
}

/** Each line tells its level; what is below a complaint is a remark. */
const SAYS_HOW_GRAVE = ['-loglevel', 'level+info'];
const REMARK = /^(\[[^\]]*@[^\]]*\] )?\[(info|verbose|warning)\]/;
const GRAVE = /\[(error|fatal|panic)\] /;

/** A process whose output is sound that goes on for as long as it likes. */
export interface RunningFfmpeg {
  output: AsyncIterable<Uint8Array>;
  /** Ends it. */
  end(): void;
  /** Its last words, and whether it ended as it should; nothing of one that was ended. */
  ended: Promise<{ isWell: boolean; lastWords: string }>;
}

/**
 * Starts `ffmpeg`, which must be there, for as long as it is listened to. It is bound by no time, and opens what its arguments allow.
 *
 * @param onRemark called with each line that it says and that is no complaint
 */
export function startFfmpeg(args: readonly string[], onRemark: (line: string) => void): RunningFfmpeg {
  const child = spawnMortal(programPath('ffmpeg'), [
    '-nostdin',
    '-nostats',
    '-hide_banner',
    ...SAYS_HOW_GRAVE,
    ...args,
  ]);
  let stderr = '';
  let isEnded = false;
  createInterface({ input: child.stderr }).on('line', (line) => {
    if (REMARK.test(line)) onRemark(line);
    else stderr = `${stderr}${line.replace(GRAVE, '')}\n`.slice(-MOST_STDERR);
  });
  const ended: RunningFfmpeg['ended'] = new Promise((resolve, reject) => {
    child.on('error', reject);
    child.on('close', (exitCode) =>
      resolve({ isWell: exitCode === 0 || isEnded, lastWords: isEnded || stderr === '' ? '' : lastWords(stderr) }),
    );
  });
  // Whoever listens hears of it where it is awaited.
  ended.catch(() => undefined);
  const end = () => {
    isEnded = true;
    child.kill('SIGKILL');
  };
  return { output: child.stdout, end, ended };
}

/** Those that run: this process takes them along, whichever way it ends. */
const running = new Set<ChildProcess>();

/**
 * Starts a program that ends with this process: at an ordinary end it is killed here; where this process is killed itself, the
 * system does it, on Linux, by `setpriv`.
 */
function spawnMortal(path: string, args: readonly string[]) {
  const stdio: ['ignore', 'pipe', 'pipe'] = ['ignore', 'pipe', 'pipe'];
  const child = hasSetpriv()
    ? spawn('setpriv', ['--pdeathsig', 'KILL', '--', path, ...args], { stdio })
    : spawn(path, args, { stdio });
  if (running.size === 0) process.once('exit', endAll);
  running.add(child);
  child.once('close', () => {
    running.delete(child);
    if (running.size === 0) process.off('exit', endAll);
  });
  return child;
}

function endAll(): void {
  for (const child of running) child.kill('SIGKILL');
}

let setpriv: boolean | undefined;

function hasSetpriv(): boolean {
  setpriv ??= process.platform === 'linux' && spawnSync('setpriv', ['--pdeathsig', 'KILL', '--', 'true']).status === 0;
  return setpriv;
}

let presence: Promise<boolean> | undefined;

/** Whether FFmpeg is on this machine; looked for once. */
export function isFfmpegThere(): Promise<boolean> {
  presence ??= runFfmpeg('ffprobe', ['-version'], '', { timeoutMs: 10_000, onOutput: () => undefined }).then(
    () => true,
    () => false,
  );
  return presence;
}

/** A path that no option can be mistaken for. */
export function inputUrl(path: string): string {
  return `file:${path}`;
}

function programPath(program: 'ffmpeg' | 'ffprobe'): string {
  const chosen = process.env.OPSIMETER_FFMPEG;
  if (!chosen) return program;
  return program === 'ffmpeg' ? chosen : join(dirname(chosen), 'ffprobe');
}

/** The last line of what a process complained of, without the address of the part that did. */
function lastWords(stderr: string): string {
  const last = stderr.trim().split('\n').at(-1) ?? '';
  return last.replace(/^\[[^\]]*\]\s*/, '').replace(/^file:\S*:\s*/, '') || 'FFmpeg gave no reason';
}
