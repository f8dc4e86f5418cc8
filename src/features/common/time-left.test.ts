import { secondsLeft } from './time-left';

test('what is left takes as long as what was seen', () => {
  expect(secondsLeft({ fraction: 0.2, atMs: 0 }, { fraction: 0.4, atMs: 10_000 })).toBeCloseTo(30);
  expect(secondsLeft({ fraction: 0.2, atMs: 0 }, { fraction: 1, atMs: 10_000 })).toBe(0);
});

test('too little seen tells nothing', () => {
  expect(secondsLeft({ fraction: 0.2, atMs: 0 }, { fraction: 0.21, atMs: 10_000 })).toBeNull();
  expect(secondsLeft({ fraction: 0.2, atMs: 0 }, { fraction: 0.4, atMs: 1000 })).toBeNull();
  expect(secondsLeft({ fraction: 0.4, atMs: 0 }, { fraction: 0.2, atMs: 9000 })).toBeNull();
});
