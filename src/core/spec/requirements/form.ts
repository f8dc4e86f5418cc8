/** A control of the form in which a spec is changed. Its name is its own among all requirements. */
export type Control = { name: string; label: string } & (
  | { kind: 'number'; isRequired?: boolean }
  | { kind: 'text' }
  /** One of several; an empty one is not required. */
  | { kind: 'pick'; options: readonly string[] }
  /** Values that are ticked, each with its label. */
  | { kind: 'ticks'; options: readonly (readonly [value: string, label: string])[] }
);

/** What controls show, by their names. */
export type Shown = Readonly<Record<string, string | number | null | undefined | readonly (string | number)[]>>;

/** What was typed and ticked. A number that is none is NaN, so that the schema refuses it. */
export interface FormValues {
  text(name: string): string;
  /** Undefined where nothing was typed. */
  number(name: string): number | undefined;
  /** Parts between commas; undefined where there are none. */
  texts(name: string): [string, ...string[]] | undefined;
  numbers(name: string): [number, ...number[]] | undefined;
  /** Undefined where nothing is ticked. */
  ticked<T extends string>(name: string): [T, ...T[]] | undefined;
  /** Of the controls `nameLeast` and `nameMost`; undefined where both are empty. */
  range(name: string): { least: number | null; most: number | null } | undefined;
}

/** How a requirement is changed in a form: its row, its controls, and how they come from a spec and become one. */
export interface RequirementForm<Asked> {
  /** Of its row; requirements of one title share one. */
  title: string;
  controls: readonly Control[];
  show(asked: Asked): Shown;
  read(values: FormValues): Asked;
}

/** The two controls of a range. */
export function rangeControls(name: string, least: string, most: string): Control[] {
  return [
    { kind: 'number', name: `${name}Least`, label: least },
    { kind: 'number', name: `${name}Most`, label: most },
  ];
}

export function showRange(
  name: string,
  range: { least: number | null; most: number | null } | undefined,
): Record<string, number | null | undefined> {
  return { [`${name}Least`]: range?.least, [`${name}Most`]: range?.most };
}
