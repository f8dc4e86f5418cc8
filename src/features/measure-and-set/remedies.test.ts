import { remedyOf, remedyOfFinding } from './remedies';

const choices = [
  { id: 'target', name: 'Meet the target', gainDb: -3.1 },
  { id: 'ceiling', name: 'Peak at the ceiling', gainDb: -1 },
] as const;
const desk = { choices, gainDb: 0, isStopped: false, hasLimiter: false };

test('loudness and peak are mended by the gain that is missing', () => {
  expect(remedyOf('loudness', desk)).toEqual({ name: 'turn down 3.1 dB', gainDb: -3.1 });
  expect(remedyOf('peak', desk)).toEqual({ name: 'turn down 1.0 dB', gainDb: -1 });
  expect(remedyOf('loudness', { ...desk, gainDb: -6 })).toEqual({ name: 'turn up 2.9 dB', gainDb: -3.1 });
  expect(remedyOf('loudness', { ...desk, gainDb: -3.1 })).toBeNull();
});

test('where the ceiling stops the gain there are options, and a limiter is set by itself', () => {
  const stopped = { ...desk, gainDb: -9, isStopped: true };
  expect(remedyOf('loudness', stopped)).toMatchObject({ hasOptions: true });
  expect(remedyOf('loudness', { ...stopped, hasLimiter: true })).toMatchObject({ gainDb: -3.1 });
  expect(remedyOf('peak', { ...desk, hasLimiter: true })).toMatchObject({ step: 'limit' });
});

test('other requirements and findings lead to their step, if there is one', () => {
  expect(remedyOf('edges', desk)).toMatchObject({ name: 'trim or pad the edges', step: 'trim' });
  expect(remedyOf('sample-rate', desk)).toMatchObject({ step: 'resampleHz' });
  expect(remedyOf('tags', desk)).toBeNull();
  expect(remedyOf('loudness', { ...desk, choices: [] })).toBeNull();
  const found = (code: string) => remedyOfFinding({ code, severity: 'advice', message: '', places: [] });
  expect(found('inverted-polarity')).toMatchObject({ name: 'set the channels', step: 'mix' });
  expect(found('clipped-runs')).toMatchObject({ goTo: 'next-clip' });
  expect(found('lossy-source')).toBeNull();
});
