import { pressView, viewsThatFit } from './views';

test('so many views fit, and one always does', () => {
  expect(viewsThatFit({ width: 0, height: 0 })).toBe(1);
  expect(viewsThatFit({ width: 380, height: 330 })).toBe(1);
  expect(viewsThatFit({ width: 380, height: 350 })).toBe(2);
  expect(viewsThatFit({ width: 950, height: 350 })).toBe(6);
});

test('a view is added or taken away, and the oldest goes for want of room', () => {
  expect(pressView([], 'spectrum', 1)).toEqual(['spectrum']);
  expect(pressView(['spectrum'], 'stereo', 1)).toEqual(['stereo']);
  expect(pressView(['spectrum', 'stereo'], 'peaks', 3)).toEqual(['spectrum', 'stereo', 'peaks']);
  expect(pressView(['spectrum', 'stereo', 'peaks'], 'limiter', 2)).toEqual(['peaks', 'limiter']);
  expect(pressView(['spectrum', 'stereo'], 'spectrum', 3)).toEqual(['stereo']);
});
