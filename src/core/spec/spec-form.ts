import { parseNumber } from '../units/parse';
import type { Control, FormValues, RequirementForm, Shown } from './requirements/form';
import { REQUIREMENTS } from './requirements/requirements';
import type { Spec } from './spec';

/** A row of the form in which a spec is changed. */
export interface FormRow {
  title: string;
  controls: readonly Control[];
}

const FORMS = REQUIREMENTS.map(({ form }) => form as RequirementForm<object>);

/** The rows of everything that a spec can ask for, in order. */
export const SPEC_FORM_ROWS: readonly FormRow[] = [...new Set(FORMS.map(({ title }) => title))].map((title) => ({
  title,
  controls: FORMS.filter((form) => form.title === title).flatMap(({ controls }) => controls),
}));

/** The first control of the requirement that a field of a spec belongs to; undefined where it belongs to none. */
export function controlOfField(field: string): string | undefined {
  const own = REQUIREMENTS.find(({ fields }) => field in fields);
  return own?.form.controls[0]?.name;
}

/** What the controls show of a spec. */
export function showSpec(spec: Spec): Shown {
  return Object.assign({}, ...FORMS.map((form) => form.show(spec)));
}

/**
 * A spec as a form says it. What no control is for stays as it was, and whether all of it can be one is for the schema to say.
 *
 * @param form as `FormData` has it: text by name, and what is ticked
 */
export function readSpec(
  before: Spec,
  form: { get(name: string): unknown; getAll(name: string): readonly unknown[] },
): Spec {
  const values = valuesOf(form);
  return Object.assign({}, before, ...FORMS.map((own) => own.read(values)));
}

function valuesOf(form: Parameters<typeof readSpec>[1]): FormValues {
  const text = (name: string) => String(form.get(name) ?? '').trim();
  const number = (name: string) => (text(name) === '' ? undefined : (parseNumber(text(name)) ?? Number.NaN));
  const texts = (name: string) =>
    some(
      text(name)
        .split(/[,;]+/)
        .map((part) => part.trim())
        .filter((part) => part !== ''),
    );
  return {
    text,
    number,
    texts,
    numbers: (name) => some((texts(name) ?? []).map((part) => parseNumber(part) ?? Number.NaN)),
    ticked: <T extends string>(name: string) => some(form.getAll(name) as T[]),
    range: (name) => {
      const [least, most] = [number(`${name}Least`) ?? null, number(`${name}Most`) ?? null];
      return least === null && most === null ? undefined : { least, most };
    },
  };
}

function some<T>(values: readonly T[]): [T, ...T[]] | undefined {
  return values.length > 0 ? ([...values] as [T, ...T[]]) : undefined;
}
