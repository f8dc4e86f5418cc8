import { FILE_FORMATS, FILE_KINDS } from '@/core/file-formats/file-formats';
import { FINDINGS } from '@/core/findings/findings';
import { ALARMS } from '@/core/live/alarms/alarms';
import { FAULTS } from '@/core/live/simulated/faults';
import type { Control } from '@/core/spec/requirements/form';
import { REQUIREMENTS } from '@/core/spec/requirements/requirements';
import { SPEC_FORM_ROWS } from '@/core/spec/spec-form';
import { STEP_NAMES, stepNamed } from '@/core/treatment/treatment';
import { formatNumber, formatSampleRate } from '@/core/units/format';
import { transportForms } from './receivers/transports';

const STAGES = {
  preparation: 'before the gain',
  levels: 'level',
  finish: 'behind the limiter',
} as const;

/** What specs can ask for, what treatments do, what is written, found and reached: as Markdown, from the lists that the app works with. */
export function reference(): string {
  return [
    '# Reference',
    'Written by `npm run docs` from the lists that the app works with; a test holds it to them.',
    '## Requirements of a spec',
    table(
      ['requirement', 'fields', 'set as'],
      REQUIREMENTS.map(({ key, fields, form }) => [
        `\`${key}\``,
        Object.keys(fields).map(code).join(', '),
        `${form.title}: ${form.controls.map(labelOf).join('; ')}`,
      ]),
    ),
    `In the form of a spec they stand in ${SPEC_FORM_ROWS.length} rows.`,
    '## Treatment steps',
    'In this order. `null`, `false` or 0 is off.',
    table(
      ['step', 'name', 'where', 'flags of `opsimeter master`'],
      STEP_NAMES.map((name) => {
        const { title, stage, flags } = stepNamed(name);
        return [code(name), title, STAGES[stage], flags.map((flag) => code(`--${flag.name}`)).join(', ') || '–'];
      }),
    ),
    '## Output formats',
    table(
      ['file', 'extensions', 'samples', 'sample rates', 'bit rates, kbit/s', 'tags', 'made by'],
      FILE_KINDS.map((kind) => {
        const own = FILE_FORMATS[kind];
        return [
          own.name,
          own.extensions.map((extension) => code(`.${extension}`)).join(', '),
          own.depths.length === 0
            ? 'lossy'
            : own.depths.map((bits) => (bits === 32 ? '32 float' : `${bits}`)).join(', '),
          own.ratesHz === null ? 'any' : own.ratesHz.map((rateHz) => formatSampleRate(rateHz)).join(', '),
          own.modes.map((mode) => `${mode} ${ends(own.bitRatesKbps[mode] ?? [])}`).join(', ') || '–',
          own.tags === null ? 'none' : own.tags === 'chunks' ? 'chunks' : 'tags',
          own.encoder === null ? 'Opsimeter' : code(own.encoder.arguments(USUAL)[1] ?? ''),
        ];
      }),
    ),
    '## Findings',
    table(
      ['code', 'found where'],
      FINDINGS.map((finding) => [code(finding.code), finding.criterion]),
    ),
    '## Transports',
    table(
      ['transport', 'kind', 'what happens', 'signed'],
      transportForms().map(({ name, kind, words, isSigned }) => [name, code(kind), words, isSigned ? 'yes' : 'no']),
    ),
    '## Alarms of a line',
    table(
      ['alarm', 'kind', 'when', 'set by', 'usually'],
      ALARMS.map(({ name, kind, words, settings, isUsual }) => [
        name,
        code(kind),
        words,
        Object.values(settings)
          .map(({ label, unit, usual }) => `${label.toLowerCase()} ${formatNumber(usual, 0)} ${unit}`)
          .join(', ') || '–',
        isUsual ? 'on' : 'off',
      ]),
    ),
    '## Faults of a simulated line',
    table(
      ['fault', 'kind', 'what happens'],
      FAULTS.map(({ name, kind, words }) => [name, code(kind), words]),
    ),
  ]
    .join('\n\n')
    .concat('\n');
}

const USUAL = { mode: null, bitRateKbps: null, sampleRateHz: 48_000, integratedLufs: null };

/** What a control is called, or what it offers. */
function labelOf(control: Control): string {
  if (control.label !== '' || !('options' in control)) return control.label;
  return control.options
    .map((option) => (typeof option === 'string' ? option : option[1]))
    .filter((label) => label !== '')
    .join(', ');
}

function code(text: string): string {
  return `\`${text}\``;
}

/** Least to most. */
function ends(values: readonly number[]): string {
  const [least, most] = [Math.min(...values), Math.max(...values)];
  return least === most ? `${least}` : `${least}–${most}`;
}

function table(head: readonly string[], rows: readonly (readonly string[])[]): string {
  const line = (cells: readonly string[]) => `| ${cells.map((cell) => cell.replaceAll('|', '\\|')).join(' | ')} |`;
  return [line(head), line(head.map(() => '---')), ...rows.map(line)].join('\n');
}
