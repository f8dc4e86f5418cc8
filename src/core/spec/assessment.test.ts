import {
  type Assessment,
  lowerName,
  missedOf,
  type Verdict,
  verdictPhrases,
  verdictState,
  verdictText,
} from './assessment';
import { distanceDb } from './distance';
import { assessCheck, assessNumber, notAssessed } from './requirements/requirement';

const peak = (measured: number) =>
  assessNumber({ key: 'peak', name: 'True peak', required: '' }, measured, 'dBTP', { most: -1 });
const loudness = (measured: number) =>
  assessNumber({ key: 'loudness', name: 'Integrated', required: '' }, measured, 'LUFS', { least: -24, most: -22 });
const tags = notAssessed({ key: 'tags', name: 'Tags', required: '' }, 'nobody has read them');
const file = (isMet: boolean) => assessCheck({ key: 'file', name: 'File', required: 'WAV' }, 'MP3', isMet);
const verdict = (...items: Assessment[]): Verdict => ({
  specId: 'own',
  inside: items.every(({ inside }) => inside),
  items,
  notJudged: [],
});

test('a verdict is inside, outside, or inside as far as it was assessed', () => {
  expect(verdictText(verdict(loudness(-23), peak(-2)))).toBe('inside');
  expect(verdictText(verdict(loudness(-23), tags, { ...tags, name: 'ISRC' }))).toBe(
    'levels inside; not assessed: tags, ISRC',
  );
  expect(verdictText(verdict(loudness(-20), tags))).toBe('outside');
});

test('its state is that of the first miss, whatever was not assessed ahead of it', () => {
  expect(verdictState(verdict(peak(-2)))).toBe('inside');
  expect(verdictState(verdict(tags, peak(0), loudness(-30)))).toBe('over');
  expect(verdictState(verdict(peak(-2), tags))).toBe('not-assessed');
  expect(missedOf(verdict(tags, peak(0), file(false), loudness(-23))).map(({ key }) => key)).toEqual(['peak', 'file']);
});

test('its sentences begin with the loudness, or else with the peak, and name every miss once', () => {
  const texts = (own: Verdict) => verdictPhrases(own).map(({ state, text }) => `${state}: ${text}`);
  expect(texts(verdict(peak(0), loudness(-20), file(false), tags))).toEqual([
    'over: integrated 2.0 LU over',
    'over: true peak 1.0 dB over',
    'missed: file must be WAV',
    'not-assessed: not assessed: tags',
  ]);
  expect(texts(verdict(file(true), peak(-2)))).toEqual(['inside: true peak −2.0 dBTP']);
  expect(texts(verdict(tags))).toEqual(['not-assessed: tags not assessed: nobody has read them']);
  expect(texts(verdict())).toEqual([]);
});

test.each([
  ['True peak', 'true peak'],
  ['ISRC', 'ISRC'],
  ['RMS', 'RMS'],
])('%s stands in a sentence as %s', (name, text) => expect(lowerName(name)).toBe(text));

test('how far it is, is the greatest miss of a level; a miss of the format counts for less than any that is heard', () => {
  expect(distanceDb(verdict())).toBe(0);
  expect(distanceDb(verdict(loudness(-23), peak(-2)))).toBe(0);
  expect(distanceDb(verdict(loudness(-30), peak(1)))).toBe(6);
  expect(distanceDb(verdict(file(false)))).toBe(0.01);
  expect(distanceDb(verdict(file(false), peak(-0.5)))).toBe(0.5);
  for (const unit of ['LU', 'dBFS', 'dB'] as const) {
    const own = assessNumber({ key: 'k', name: 'K', required: '' }, 3, unit, { most: 1 });
    expect(distanceDb(verdict(own))).toBe(2);
  }
});
