import { readShares } from './kept-shares';

test('what was kept is read, and what can not be is as good as nothing', () => {
  const shares = { rows: { trace: 60, rule: 20, cards: 20 }, cards: { treatment: 30, readings: 30, places: 40 } };
  expect(readShares(JSON.stringify(shares))).toEqual(shares);
  for (const text of [
    undefined,
    '',
    'null',
    '{',
    '{"rows":{}}',
    '{"rows":{"trace":"x"},"cards":{}}',
    '{"rows":{"trace":900},"cards":{}}',
  ])
    expect(readShares(text)).toBeUndefined();
});
