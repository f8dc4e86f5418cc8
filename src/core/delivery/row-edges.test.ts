import type { DigitalSilence } from '../loudness/digital-silence';
import type { Facts } from '../spec/facts';
import { gainOnly } from '../treatment/treatment';
import { missingEdges, withRowEdges } from './row-edges';

const RATE = 48_000;
const SOURCE = { frames: 60 * RATE, sampleRateHz: RATE };
const NONE = { totalSeconds: 0, headSeconds: 0, tailSeconds: 0 };
const SPEC = { head: { least: 0.5, most: 1 }, tail: { least: 1, most: 5 }, needsRoomTone: true };
const OFF = gainOnly(0);

function facts(headSeconds: number, tailSeconds: number, digitalSilence: DigitalSilence | undefined = NONE) {
  return { edges: { headSeconds, tailSeconds }, sampleRateHz: RATE, readings: { digitalSilence } } as unknown as Facts;
}
const tone = (seconds: number) => ({ frames: Math.round(seconds * RATE), kind: 'room-tone' });

test('what is long enough gets nothing, and what is too long is not cut', () => {
  expect(missingEdges(SPEC, facts(0.5, 1), OFF, SOURCE)).toBeUndefined();
  expect(missingEdges(SPEC, facts(3, 9), OFF, SOURCE)).toBeUndefined();
  expect(missingEdges({}, facts(0, 0), OFF, SOURCE)).toBeUndefined();
});

test('too little is brought to a quarter of a second beyond the least', () => {
  expect(missingEdges(SPEC, facts(0.2, 1), OFF, SOURCE)).toEqual({ paddingStart: tone(0.55) });
  expect(missingEdges(SPEC, facts(0.5, 0.4), OFF, SOURCE)).toEqual({ paddingEnd: tone(0.85) });
});

test('where least and most are near, it aims between them', () => {
  const spec = { ...SPEC, head: { least: 0.5, most: 0.6 } };
  expect(missingEdges(spec, facts(0.1, 1), OFF, SOURCE)).toEqual({ paddingStart: tone(0.45) });
  expect(missingEdges({ head: { least: 0.5, most: null } }, facts(0.1, 1), OFF, SOURCE)).toEqual({
    paddingStart: tone(0.65),
  });
});

test('what a treatment adds already stays, and is made longer', () => {
  const treatment = { ...OFF, paddingStart: { frames: 0.3 * RATE, kind: 'room-tone' as const } };
  expect(missingEdges(SPEC, facts(0.3, 1), treatment, SOURCE)).toEqual({ paddingStart: tone(0.75) });
});

test('digital silence of the source is cut off, and room tone put in its place', () => {
  const silent = { totalSeconds: 2.4, headSeconds: 0.4, tailSeconds: 2 };
  expect(missingEdges(SPEC, facts(0.6, 2.5, silent), OFF, SOURCE)).toEqual({
    paddingStart: tone(0.55),
    paddingEnd: tone(0.75),
    trim: { startFrame: 0.4 * RATE, endFrame: 58 * RATE },
  });
});

test('what stays is counted from a trim that there is, in frames of the source', () => {
  const trim = { startFrame: RATE, endFrame: 20 * RATE };
  const silent = { totalSeconds: 0.4, headSeconds: 0.4, tailSeconds: 0 };
  const half = { ...facts(0.6, 1, silent), sampleRateHz: RATE / 2 };
  expect(missingEdges(SPEC, half, { ...OFF, trim }, SOURCE)).toEqual({
    paddingStart: { frames: Math.round(0.55 * (RATE / 2)), kind: 'room-tone' },
    trim: { startFrame: 1.4 * RATE, endFrame: 20 * RATE },
  });
});

test('silence that a treatment has added is replaced, and nothing of the source cut', () => {
  const silent = { totalSeconds: 1, headSeconds: 1, tailSeconds: 0 };
  const treatment = { ...OFF, paddingStart: { frames: RATE, kind: 'silence' as const } };
  expect(missingEdges(SPEC, facts(1, 1, silent), treatment, SOURCE)).toEqual({ paddingStart: tone(1) });
});

test('a spec that takes silence, and silence too short to tell, are left alone', () => {
  const silent = { totalSeconds: 3, headSeconds: 1, tailSeconds: 2 };
  expect(missingEdges({ ...SPEC, needsRoomTone: false }, facts(1, 2, silent), OFF, SOURCE)).toBeUndefined();
  const short = { totalSeconds: 0.04, headSeconds: 0.04, tailSeconds: 0 };
  expect(missingEdges(SPEC, facts(0.6, 1.2, short), OFF, SOURCE)).toBeUndefined();
  expect(missingEdges(SPEC, facts(0.6, 1.2, { ...short, headSeconds: 0.05 }), OFF, SOURCE)).toBeDefined();
});

test('edges that are not known get nothing', () => {
  const unknown = { ...facts(0, 0), edges: { unknown: 'measured before' } };
  expect(missingEdges(SPEC, unknown, OFF, SOURCE)).toBeUndefined();
});

test('a row has its own edges where it states them, and else those of its programme', () => {
  const paddingStart = { frames: 100, kind: 'silence' as const };
  const treatment = { ...OFF, paddingStart, trim: { startFrame: 5, endFrame: null } };
  expect(withRowEdges(treatment, null)).toBe(treatment);
  expect(withRowEdges(treatment, {})).toEqual(treatment);
  const paddingEnd = { frames: 7, kind: 'room-tone' as const };
  expect(withRowEdges(treatment, { paddingStart: null, paddingEnd, trim: { startFrame: 9, endFrame: 50 } })).toEqual({
    ...treatment,
    paddingStart: null,
    paddingEnd,
    trim: { startFrame: 9, endFrame: 50 },
  });
});
