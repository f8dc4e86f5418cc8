import { SPECS } from './catalogue';
import { specSchema } from './spec';
import { readSpec, SPEC_FORM_ROWS, showSpec } from './spec-form';

/** The form as a browser sends it where nobody has changed anything. */
function sent(shown: ReturnType<typeof showSpec>): FormData {
  const form = new FormData();
  for (const { controls } of SPEC_FORM_ROWS) {
    for (const { kind, name } of controls) {
      const value = shown[name];
      if (kind === 'ticks') for (const one of (value as string[] | undefined) ?? []) form.append(name, one);
      else form.append(name, Array.isArray(value) ? value.join(', ') : String(value ?? '').replace('-', '−'));
    }
  }
  return form;
}

test.each(SPECS.map((spec) => [spec.name, spec] as const))('%s comes out of its form as it went in', (_, spec) => {
  expect(specSchema.parse(readSpec(spec, sent(showSpec(spec))))).toEqual(specSchema.parse(spec));
});

test('what no control is for is not dropped', () => {
  const [first] = SPECS;
  const spec = { ...first, notJudged: ['Bars and tone'], later: 'a field of a newer version' } as never;
  expect(readSpec(spec, sent(showSpec(spec)))).toMatchObject({
    notJudged: ['Bars and tone'],
    later: 'a field of a newer version',
  });
});

test('every control has a name of its own, and a number that is none is refused', () => {
  const names = SPEC_FORM_ROWS.flatMap(({ controls }) => controls.map(({ name }) => name));
  expect(new Set(names).size).toBe(names.length);
  const [spec] = SPECS;
  const form = sent(showSpec(spec as (typeof SPECS)[number]));
  form.set('ceiling', 'loud');
  expect(specSchema.safeParse(readSpec(spec as (typeof SPECS)[number], form)).success).toBe(false);
  form.set('ceiling', '-2,5');
  expect(readSpec(spec as (typeof SPECS)[number], form).peak.ceiling).toBe(-2.5);
});
