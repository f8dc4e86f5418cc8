'use client';

import { type FormEvent, useState, useTransition } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import type { Control, Shown } from '@/core/spec/requirements/form';
import type { Spec } from '@/core/spec/spec';
import { readSpec, SPEC_FORM_ROWS, showSpec } from '@/core/spec/spec-form';
import { ErrorNotice } from '@/features/common/error-notice';
import { Button } from '@/ui/button';
import { Field, LongField } from '@/ui/field';
import { keepSpec } from './actions';

const NUMBER_PATTERN = '\\s*[+\\-−]?[0-9]*[.,]?[0-9]+\\s*';

/** All that a spec can ask for, as its requirements say; what is left empty is not required. */
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
  const shown = showSpec(spec);
  return (
    <form className="flex flex-col gap-4" onSubmit={submit}>
      <Row title="Name and source">
        <Field label="Name" name="name" defaultValue={spec.name} required maxLength={80} />
        <Field label="Source" name="document" defaultValue={spec.basis.document} maxLength={400} />
      </Row>
      {SPEC_FORM_ROWS.map(({ title, controls }) => (
        <Row key={title} title={title}>
          {controls.map((control) => (
            <ControlOf key={control.name} control={control} value={shown[control.name]} />
          ))}
        </Row>
      ))}
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
  return {
    ...readSpec(before, form),
    name: text('name'),
    basis: { ...before.basis, document: text('document') },
    notJudged: text('notJudged')
      .split('\n')
      .map((line) => line.trim())
      .filter((line) => line !== ''),
  };
}

function ControlOf({ control, value }: { control: Control; value: Shown[string] }) {
  const { name, label } = control;
  switch (control.kind) {
    case 'number':
      return (
        <Field
          label={label}
          name={name}
          defaultValue={value === null || value === undefined ? '' : String(value).replace('-', '−')}
          inputMode="decimal"
          required={control.isRequired === true}
          maxLength={12}
          pattern={NUMBER_PATTERN}
          title="A number, such as −23 or 0.5"
        />
      );
    case 'text':
      return <Field label={label} name={name} defaultValue={Array.isArray(value) ? value.join(', ') : ''} />;
    case 'pick':
      return <Pick label={label} name={name} value={String(value ?? '')} options={control.options} />;
    case 'ticks':
      return <Ticks name={name} chosen={Array.isArray(value) ? value.map(String) : []} options={control.options} />;
  }
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
  name,
  chosen,
  options,
}: {
  name: string;
  chosen: readonly string[];
  options: readonly (readonly [string, string])[];
}) {
  return (
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
}
