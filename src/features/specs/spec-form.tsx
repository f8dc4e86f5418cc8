'use client';

import { type FormEvent, useState, useTransition } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { FILE_FORMATS, FILE_KINDS, RATE_MODES } from '@/core/file-formats/file-formats';
import { LOUDNESS_MEASURES } from '@/core/spec/requirements/loudness';
import { PEAK_MEASURES } from '@/core/spec/requirements/peak';
import { TAGS_DEMANDED } from '@/core/spec/requirements/tags';
import type { Spec } from '@/core/spec/spec';
import { parseNumber } from '@/core/units/parse';
import { ErrorNotice } from '@/features/common/error-notice';
import { Button } from '@/ui/button';
import { Field, LongField } from '@/ui/field';
import { keepSpec } from './actions';

const NUMBER_PATTERN = '\\s*[+\\-−]?[0-9]*[.,]?[0-9]+\\s*';

/** All that a spec can ask for; what is left empty is not asked. */
export function SpecForm({ spec, onDone, onCancel }: { spec: Spec; onDone: () => void; onCancel: () => void }) {
  const [error, setError] = useState<ErrorRecord>();
  const [isBusy, startWork] = useTransition();
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const wanted = specOf(spec, new FormData(event.currentTarget));
    startWork(async () => {
      const result = await keepSpec(wanted);
      setError(result.ok ? undefined : result.error);
      if (result.ok) onDone();
    });
  };
  const { loudness, peak, bitRate } = spec;
  return (
    <form className="flex flex-col gap-4" onSubmit={submit}>
      <Row title="Name and source">
        <Field label="Name" name="name" defaultValue={spec.name} required maxLength={80} />
        <Field label="Source" name="document" defaultValue={spec.basis.document} maxLength={400} />
      </Row>
      <Row title="Loudness">
        <Pick label="Measured as" name="measure" value={loudness?.measure ?? ''} options={['', ...LOUDNESS_MEASURES]} />
        <Level label="Target" name="target" value={loudness?.target} />
        <Level label="LU below" name="below" value={loudness?.toleranceBelow} />
        <Level label="LU above" name="above" value={loudness?.toleranceAbove} />
      </Row>
      <Row title="Limits">
        <Level label="Max short-term, LUFS" name="shortTerm" value={spec.maxShortTermLufs} />
        <Level label="Max momentary, LUFS" name="momentary" value={spec.maxMomentaryLufs} />
        <Level label="Range from, LU" name="rangeLeast" value={spec.loudnessRange?.least} />
        <Level label="Range to, LU" name="rangeMost" value={spec.loudnessRange?.most} />
        <Level label="Noise floor, dBFS" name="noise" value={spec.maxNoiseFloorDbfs} />
      </Row>
      <Row title="Peak">
        <Pick label="Peak" name="peakMeasure" value={peak.measure} options={PEAK_MEASURES} />
        <Level label="Ceiling, dB" name="ceiling" value={peak.ceiling} required />
        <Level label="Accepted over the ceiling, dB" name="allowance" value={peak.allowanceDb} />
      </Row>
      <Row title="Silence at the edges, seconds">
        <Level label="Start, at least" name="headLeast" value={spec.head?.least} />
        <Level label="Start, at most" name="headMost" value={spec.head?.most} />
        <Level label="End, at least" name="tailLeast" value={spec.tail?.least} />
        <Level label="End, at most" name="tailMost" value={spec.tail?.most} />
        <Ticks
          name="roomTone"
          chosen={spec.needsRoomTone ? ['yes'] : []}
          options={[['yes', 'room tone, no digital silence']]}
        />
      </Row>
      <Row title="Duration, seconds">
        <Level label="From" name="durationLeast" value={spec.durationSeconds?.least} />
        <Level label="To" name="durationMost" value={spec.durationSeconds?.most} />
      </Row>
      <Row title="File">
        <Field label="Channels, such as 1, 2" name="channels" defaultValue={spec.channels?.join(', ')} />
        <Field label="Layouts, such as 5.1" name="layouts" defaultValue={spec.layouts?.join(', ')} />
        <Field label="Sample rates in Hz" name="rates" defaultValue={spec.sampleRatesHz?.join(', ')} />
        <Field label="Bit depths" name="depths" defaultValue={spec.bitDepths?.join(', ')} />
      </Row>
      <Ticks
        title="File formats"
        name="files"
        chosen={spec.files ?? []}
        options={FILE_KINDS.map((kind) => [kind, FILE_FORMATS[kind].name])}
      />
      <Row title="Bit rate">
        <Level label="At least, kbit/s" name="leastKbps" value={bitRate?.leastKbps} />
        <Ticks name="modes" chosen={bitRate?.modes ?? []} options={RATE_MODES.map((mode) => [mode, mode])} />
      </Row>
      <Ticks
        title="Required tags"
        name="tags"
        chosen={spec.tags ?? []}
        options={TAGS_DEMANDED.map((tag) => [tag, tag])}
      />
      <Ticks
        title="Premaster"
        name="premaster"
        chosen={spec.isPremaster ? ['yes'] : []}
        options={[['yes', 'no limiter, no dither, rate and depth of the source, whole tail']]}
      />
      <LongField
        label="To check by hand, one requirement per line"
        name="notJudged"
        defaultValue={spec.notJudged.join('\n')}
      />
      <ErrorNotice error={error} onClose={() => setError(undefined)} />
      <footer className="flex justify-end gap-2">
        <Button onClick={onCancel}>Cancel</Button>
        <Button kind="primary" type="submit" disabled={isBusy}>
          Save as version {spec.version + 1}
        </Button>
      </footer>
    </form>
  );
}

/** What is typed and ticked, as a spec; whether that can be one is for the server to say. */
function specOf(before: Spec, form: FormData): Spec {
  const text = (name: string) => String(form.get(name) ?? '').trim();
  const number = (name: string) => (text(name) === '' ? undefined : (parseNumber(text(name)) ?? Number.NaN));
  const parts = (name: string) =>
    text(name)
      .split(/[,;]+/)
      .map((part) => part.trim())
      .filter((part) => part !== '');
  const numbers = (name: string) => some(parts(name).map((part) => parseNumber(part) ?? Number.NaN));
  const ticked = <T extends string>(name: string) => some(form.getAll(name) as T[]);
  const range = (name: string) => {
    const [least, most] = [number(`${name}Least`) ?? null, number(`${name}Most`) ?? null];
    return least === null && most === null ? undefined : { least, most };
  };
  const measure = text('measure') as (typeof LOUDNESS_MEASURES)[number] | '';
  const modes = ticked<(typeof RATE_MODES)[number]>('modes');
  return {
    id: before.id,
    version: before.version,
    name: text('name'),
    basis: { ...before.basis, document: text('document') },
    loudness:
      measure === ''
        ? undefined
        : {
            measure,
            target: number('target') ?? Number.NaN,
            toleranceBelow: number('below') ?? 0,
            toleranceAbove: number('above') ?? 0,
          },
    maxShortTermLufs: number('shortTerm'),
    maxMomentaryLufs: number('momentary'),
    loudnessRange: range('range'),
    peak: {
      measure: text('peakMeasure') as (typeof PEAK_MEASURES)[number],
      ceiling: number('ceiling') ?? Number.NaN,
      allowanceDb: number('allowance') ?? 0,
    },
    maxNoiseFloorDbfs: number('noise'),
    head: range('head'),
    tail: range('tail'),
    needsRoomTone: form.get('roomTone') === null ? undefined : true,
    durationSeconds: range('duration'),
    channels: numbers('channels'),
    layouts: some(parts('layouts')),
    sampleRatesHz: numbers('rates'),
    bitDepths: numbers('depths'),
    files: ticked<(typeof FILE_KINDS)[number]>('files'),
    bitRate: modes && { leastKbps: number('leastKbps') ?? null, modes },
    tags: ticked<(typeof TAGS_DEMANDED)[number]>('tags'),
    isPremaster: form.get('premaster') === null ? undefined : true,
    notJudged: text('notJudged')
      .split('\n')
      .map((line) => line.trim())
      .filter((line) => line !== ''),
  };
}

function some<T>(values: T[]): [T, ...T[]] | undefined {
  return values.length > 0 ? (values as [T, ...T[]]) : undefined;
}

function Row({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <fieldset className="grid grid-cols-[8rem_1fr] items-end gap-3">
      <legend className="sr-only">{title}</legend>
      <span aria-hidden className="pb-2 text-sm font-semibold">
        {title}
      </span>
      <span className="flex flex-wrap items-end gap-3 [&>label]:basis-32">{children}</span>
    </fieldset>
  );
}

function Level({
  label,
  name,
  value,
  required = false,
}: {
  label: string;
  name: string;
  value: number | null | undefined;
  required?: boolean;
}) {
  const text = value === null || value === undefined ? '' : String(value).replace('-', '−');
  return (
    <Field
      label={label}
      name={name}
      defaultValue={text}
      inputMode="decimal"
      required={required}
      maxLength={12}
      pattern={NUMBER_PATTERN}
      title="A number, such as −23 or 0.5"
    />
  );
}

function Pick({
  label,
  name,
  value,
  options,
}: {
  label: string;
  name: string;
  value: string;
  options: readonly string[];
}) {
  return (
    <label className="flex grow flex-col gap-1 text-xs text-mute">
      {label}
      <select
        name={name}
        defaultValue={value}
        className="w-full rounded-control border border-hair bg-sheet px-3 py-1.5 text-sm text-ink hover:border-stock-3"
      >
        {options.map((option) => (
          <option key={option} value={option}>
            {option === '' ? 'not required' : option}
          </option>
        ))}
      </select>
    </label>
  );
}

function Ticks({
  title,
  name,
  chosen,
  options,
}: {
  title?: string;
  name: string;
  chosen: readonly string[];
  options: readonly (readonly [string, string])[];
}) {
  const ticks = (
    <span className="flex flex-wrap items-center gap-x-4 gap-y-1 pb-1 text-sm">
      {options.map(([value, label]) => (
        <label key={value} className="flex items-center gap-1.5">
          <input
            type="checkbox"
            name={name}
            value={value}
            defaultChecked={chosen.includes(value)}
            className="size-3.5 accent-(--color-action)"
          />
          {label}
        </label>
      ))}
    </span>
  );
  return title === undefined ? ticks : <Row title={title}>{ticks}</Row>;
}
