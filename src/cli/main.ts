import { parseArgs } from 'node:util';
import { AppError } from '@/core/errors/app-error';
import { LAYOUT_IDS } from '@/core/loudness/channel-layout';
import { checkCommand, complaint, EXIT, masterCommand, measureCommand, type Output, specsCommand } from './commands';

const HELP = `opsimeter — measure, check and master WAV files from the command line

  opsimeter measure FILE… [--json]                 readings of each file
  opsimeter check FILE… --spec ID [--json]         readings against a spec
  opsimeter master FILE --spec ID --out FILE [--max-reduction DB] [--json]
                                                   gain to the spec, 24-bit WAV, measured again as written;
                                                   where the ceiling stops it, a limiter of at most so many dB
  opsimeter specs [--json]                         the specs and what they rest on

  --layout ID    read the channels as this layout: ${LAYOUT_IDS.join(', ')}
  --sha256       hash each file that is measured as well

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
      return masterCommand(
        file,
        required(values.spec, '--spec ID'),
        required(values.out, '--out FILE'),
        asJson,
        output,
        { ...options, ...maxReduction(values['max-reduction']) },
      );
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
      args: [...args],
      allowPositionals: true,
      options: {
        json: { type: 'boolean' },
        spec: { type: 'string' },
        out: { type: 'string' },
        'max-reduction': { type: 'string' },
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

function layoutId(value: string | undefined): string | undefined {
  if (value === undefined || LAYOUT_IDS.some((id) => id === value)) return value;
  throw new AppError('usage', { reason: `There is no layout "${value}"; it is one of ${LAYOUT_IDS.join(', ')}` });
}

const MOST_REDUCTION_DB = 12;

function maxReduction(value: string | undefined): { maxReductionDb?: number } {
  if (value === undefined) return {};
  const maxReductionDb = Number(value);
  if (value.trim() !== '' && maxReductionDb >= 0 && maxReductionDb <= MOST_REDUCTION_DB) return { maxReductionDb };
  throw new AppError('usage', { reason: `--max-reduction is a number of dB from 0 to ${MOST_REDUCTION_DB}` });
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
