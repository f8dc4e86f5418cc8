import { readDesk } from './kept-desk';

test('what was kept is read, and what can not be is as good as nothing', () => {
  const rows = { trace: 60, rule: 20, cards: 20 };
  const kept = {
    rows,
    cards: { treatment: 30, readings: 30, places: 40 },
    hasMeters: true,
    scale: 'ebu-9',
    analysis: { isShown: true, open: ['spectrum', 'peaks'] },
  };
  expect(readDesk(JSON.stringify(kept))).toEqual(kept);
  expect(readDesk(JSON.stringify({ rows }))).toEqual({ rows });
  for (const text of [
    undefined,
    '',
    'null',
    '{',
    '{"rows":{"trace":"x"}}',
    '{"rows":{"trace":900}}',
    '{"analysis":{"isShown":true,"open":["unknown"]}}',
  ])
    expect(readDesk(text)).toEqual({});
});
