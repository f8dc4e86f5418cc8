import { parseArgs } from 'node:util';
import { AppError } from '@/core/errors/app-error';
import { LAYOUT_IDS } from '@/core/loudness/channel-layout';
import { checkCommand, complaint, EXIT, measureCommand, type Output, specsCommand } from './commands';
import { MASTER_OPTIONS } from './master-words';

const HELP = `opsimeter — measure, check and master sound files from the command line

  opsimeter measure FILE… [--json]                 readings of each file
  opsimeter check FILE… --spec ID [--json]         readings against a spec
  opsimeter master FILE --spec ID --out FILE [--json]
                                                   gain to the spec, written as what FILE ends in
                                                   (.wav .aiff .flac .mp3 .m4a .opus .ogg .mp2),
                                                   measured again as written
  opsimeter deliver JOB.json [--json]              several deliveries of several files, each with
                                                   its spec, format and levels (docs/hand-over.md)
  opsimeter verify CERT.json FILE… [--json]        whether a file is still the one that a
                                                   certificate speaks of, and still reads so
  opsimeter specs [--json]                         the specs and what they rest on

  --layout ID    read the channels as this layout: ${LAYOUT_IDS.join(', ')}
  --sha256       hash each file that is measured as well

  master also takes:
  --max-reduction DB   where the ceiling stops the gain, a limiter of at most so many dB (0 to 12)
  --ceiling DBTP       another ceiling than the spec's (-12 to 0)
  --gain DB            this gain, instead of one that is worked out
  --spec-file FILE     a spec of your own, as JSON ("opsimeter specs --json" shows some)
  --premaster          peaks 6 dB below full scale, and nothing else is touched
  --bits N             16, 24, or 32 (float)
  --bitrate KBPS, --mode MODE
                       of a lossy file: constant, average, variable
  --dither KIND        none, rpdf, tpdf, shaped (tpdf to 16 bits, none else)
  --start, --end T     keep what is between (90, 1:30, 1:02:03.250)
  --fade-in, --fade-out T, --fade-shape SHAPE
                       linear, equal-power, s-curve, exponential
  --channels MIX       swapped, left, right, mono-0, mono-3, mono-6, invert-left, invert-right
  --remove-dc          take each channel's mean off
  --rate HZ            resample (soxr, through FFmpeg)
  --head, --tail T     silence added ahead and behind; with --room-tone, the file's own room tone
  --trim DB            turn down behind the limiter (-24 to 0)
  --link PERCENT, --lfe linked|apart
                       how the limiter takes channels together
  --look-ahead MS, --release MS
                       how long before a peak it begins (0.5 to 10, else 1.5), and how soon it
                       lets go (10 to 1000, else by programme)
  --title, --artist, --album, --track, --year, --genre, --comment, --isrc TEXT
                       what the file says of itself
  --cover FILE         a PNG or JPEG picture that the file carries
  --without-adm        leave the file's audio definition (ADM) out, where it can not go on
  --loudness-tags      the file tells players by how much to turn it: ReplayGain, R128 gain in Opus

Exit: 0 all inside, 1 something misses its spec, 2 unusable input or usage.`;

/** Runs one command line and returns its exit code. Results go to print, complaints to complain. */
export async function main(args: readonly string[], output: Output): Promise<number> {
  try {
    return await run(args, output);
  } catch (error) {
    output.complain(complaint(error));
    return EXIT.unusable;
  }
}

async function run(args: readonly string[], output: Output): Promise<number> {
  const { values, positionals } = parse(args);
  const [command, ...files] = positionals;
  const asJson = values.json ?? false;
  const options = { layoutId: layoutId(values.layout), hash: values.sha256 ?? false };
  if (values.help) {
    output.print(HELP);
    return EXIT.ok;
  }
  switch (command) {
    case 'measure':
      return measureCommand(someFiles(files), asJson, output, options);
    case 'check':
      return checkCommand(someFiles(files), required(values.spec, '--spec ID'), asJson, output, options);
    case 'master': {
      const [file, ...more] = someFiles(files);
      if (more.length > 0) throw new AppError('usage', { reason: '"master" takes one file at a time' });
      // Loaded only now: no other command needs what treats and writes.
      const [{ masterOptions }, { masterCommand }] = await Promise.all([
        import('./treatment-options'),
        import('./master-command'),
      ]);
      const out = required(values.out, '--out FILE');
      const wanted = (sampleRateHz: number) => masterOptions(values, sampleRateHz, out);
      return masterCommand(file, out, asJson, output, { ...options, wanted });
    }
    case 'deliver': {
      const [jobFile, ...more] = someFiles(files);
      if (more.length > 0) throw new AppError('usage', { reason: '"deliver" takes one job at a time' });
      const { deliverCommand } = await import('./deliver-command');
      return deliverCommand(jobFile, asJson, output, options);
    }
    case 'verify': {
      const [certificate, ...delivered] = someFiles(files);
      const { verifyCommand } = await import('./verify-command');
      return verifyCommand(certificate, someFiles(delivered), asJson, output, options);
    }
    case 'specs':
      return specsCommand(asJson, output);
    case undefined:
      throw new AppError('usage', { reason: 'No command was given' });
    default:
      throw new AppError('usage', { reason: `There is no command "${command}"` });
  }
}

function parse(args: readonly string[]) {
  try {
    return parseArgs({
      args: withNegativeNumbers(args),
      allowPositionals: true,
      options: {
        json: { type: 'boolean' },
        spec: { type: 'string' },
        out: { type: 'string' },
        ...MASTER_OPTIONS,
        layout: { type: 'string' },
        sha256: { type: 'boolean' },
        help: { type: 'boolean', short: 'h' },
      },
    });
  } catch (error) {
    const reason = (error as Error).message.replace(/\.$/, '');
    throw new AppError('usage', { reason }, { cause: error });
  }
}

/** `--gain -6` as `--gain=-6`: a number below zero is no option. */
function withNegativeNumbers(args: readonly string[]): string[] {
  return args.reduce<string[]>((joined, arg) => {
    const last = joined.at(-1);
    const isNumber = /^-\d+(\.\d+)?$/.test(arg);
    if (isNumber && last?.startsWith('--') && !last.includes('=')) joined[joined.length - 1] = `${last}=${arg}`;
    else joined.push(arg);
    return joined;
  }, []);
}

function layoutId(value: string | undefined): string | undefined {
  if (value === undefined || LAYOUT_IDS.some((id) => id === value)) return value;
  throw new AppError('usage', { reason: `There is no layout "${value}"; it is one of ${LAYOUT_IDS.join(', ')}` });
}

function someFiles(files: string[]): [string, ...string[]] {
  const [first, ...rest] = files;
  if (first === undefined) throw new AppError('usage', { reason: 'No file was named' });
  return [first, ...rest];
}

function required(value: string | undefined, name: string): string {
  if (value === undefined) throw new AppError('usage', { reason: `${name} is missing` });
  return value;
}
