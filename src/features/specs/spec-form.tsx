'use client';

import { useState } from 'react';
import type { UseFormRegister, UseFormRegisterReturn } from 'react-hook-form';
import type { Control } from '@/core/spec/requirements/form';
import type { Spec } from '@/core/spec/spec';
import { controlOfField, readSpec, SPEC_FORM_ROWS, showSpec } from '@/core/spec/spec-form';
import { FormProblem } from '@/features/common/form-problem';
import { sayUnreached } from '@/features/common/server-unreached';
import { useSharedForm } from '@/features/common/use-shared-form';
import { Button } from '@/ui/button';
import { Field, LongField } from '@/ui/field';
import { keepSpec } from './actions';
import { specFormMessages as messages } from './messages';

type Typed = Record<string, string | string[]>;

/** All that a spec can ask for, as its requirements say; what is left empty is not required. */
export function SpecForm({ spec, onDone, onCancel }: { spec: Spec; onDone: () => void; onCancel: () => void }) {
  const { register, handleSubmit, formState, setError } = useSharedForm<Typed>(typedOf(spec));
  const [openedVersion] = useState(spec.version);
  const problemOf = (name: string) => formState.errors[name]?.message;
  const save = async (typed: Typed) => {
    const result = await keepSpec(specOf(spec, typed)).catch(sayUnreached);
    if (result.ok) return onDone();
    const [field = ''] = result.field?.name.split('.') ?? [];
    const control = field === 'name' || field === 'notJudged' ? field : controlOfField(field);
    if (control && result.field) setError(control, { message: result.field.problem }, { shouldFocus: true });
    else setError('root', { message: [result.error.happened, result.error.safe, result.error.todo].join(' ') });
  };
  return (
    <form className="flex flex-col gap-4" noValidate onSubmit={handleSubmit(save)}>
      <Row title={messages.nameAndSource}>
        <Field
          label={messages.name}
          {...register('name', { required: messages.enterAName })}
          problem={problemOf('name')}
        />
        <Field label={messages.source} {...register('document')} problem={problemOf('document')} />
      </Row>
      {SPEC_FORM_ROWS.map(({ title, controls }) => (
        <Row key={title} title={title}>
          {controls.map((control) => (
            <ControlOf key={control.name} control={control} register={register} problem={problemOf(control.name)} />
          ))}
        </Row>
      ))}
      <LongField label={messages.checkByHand} {...register('notJudged')} problem={problemOf('notJudged')} />
      {spec.version === openedVersion ? null : (
        <p role="status" className="text-sm text-advice">
          ○ {messages.newerVersion(spec.version)}
        </p>
      )}
      <FormProblem>{formState.errors.root?.message}</FormProblem>
      <footer className="flex justify-end gap-2">
        <Button onClick={onCancel}>{messages.cancel}</Button>
        <Button kind="primary" type="submit" disabled={formState.isSubmitting}>
          {messages.saveAsVersion(spec.version + 1)}
        </Button>
      </footer>
    </form>
  );
}

/** What the controls show of a spec, as text and ticks. */
function typedOf(spec: Spec): Typed {
  const shown = showSpec(spec);
  const typed: Typed = { name: spec.name, document: spec.basis.document, notJudged: spec.notJudged.join('\n') };
  for (const { kind, name } of SPEC_FORM_ROWS.flatMap(({ controls }) => controls)) {
    const value = shown[name];
    if (kind === 'ticks') typed[name] = Array.isArray(value) ? value.map(String) : [];
    else if (kind === 'text') typed[name] = Array.isArray(value) ? value.join(', ') : '';
    else typed[name] = String(value ?? '').replace('-', kind === 'number' ? '−' : '-');
  }
  return typed;
}

/** What is typed and ticked, as a spec; whether that can be one is for the server to say. */
function specOf(before: Spec, typed: Typed): Spec {
  const text = (name: string) => String(typed[name] ?? '').trim();
  return {
    ...readSpec(before, {
      get: (name) => typed[name] ?? null,
      getAll: (name) => [typed[name] ?? []].flat(),
    }),
    name: text('name'),
    basis: { ...before.basis, document: text('document') },
    notJudged: text('notJudged')
      .split('\n')
      .map((line) => line.trim())
      .filter((line) => line !== ''),
  };
}

/** A number as people type it, or nothing. */
const NUMBER = { value: /^\s*([+\-−]?\d*[.,]?\d+\s*)?$/, message: messages.enterANumber };

function ControlOf({
  control,
  register,
  problem,
}: {
  control: Control;
  register: UseFormRegister<Typed>;
  problem: string | undefined;
}) {
  const { name, label } = control;
  switch (control.kind) {
    case 'number':
      return (
        <Field
          label={label}
          inputMode="decimal"
          maxLength={12}
          {...register(name, { pattern: NUMBER, ...(control.isRequired ? { required: NUMBER.message } : {}) })}
          problem={problem}
        />
      );
    case 'text':
      return <Field label={label} {...register(name)} problem={problem} />;
    case 'pick':
      return <Pick label={label} options={control.options} {...register(name)} />;
    case 'ticks':
      return <Ticks options={control.options} {...register(name)} />;
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

function Pick({ label, options, ...control }: { label: string; options: readonly string[] } & UseFormRegisterReturn) {
  return (
    <label className="flex grow flex-col gap-1 text-xs text-mute">
      {label}
      <select
        {...control}
        className="w-full rounded-control border border-stock-3 bg-sheet px-3 py-1.5 text-sm text-ink hover:border-stock-ink"
      >
        {options.map((option) => (
          <option key={option} value={option}>
            {option === '' ? messages.notRequired : option}
          </option>
        ))}
      </select>
    </label>
  );
}

function Ticks({ options, ...control }: { options: readonly (readonly [string, string])[] } & UseFormRegisterReturn) {
  return (
    <span className="flex flex-wrap items-center gap-x-4 gap-y-1 pb-1 text-sm">
      {options.map(([value, label]) => (
        <label key={value} className="flex items-center gap-1.5">
          <input type="checkbox" {...control} value={value} className="size-3.5 accent-(--color-action)" />
          {label}
        </label>
      ))}
    </span>
  );
}
