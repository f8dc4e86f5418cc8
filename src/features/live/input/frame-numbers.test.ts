import { FrameNumbers } from './frame-numbers';

const RATE = 44_100;
const PART_US = 10_000;

test('parts that follow each other are numbered on, whatever their times are rounded by', () => {
  const numbers = new FrameNumbers(RATE);
  for (let part = 0; part < 500; part++) {
    const jitterUs = ((part * 7919) % 2000) - 1000;
    expect(numbers.next(5_000_000 + part * PART_US + jitterUs, 441)).toBe(part * 441);
  }
});

test('what never came is counted, and what follows has the number that it would have', () => {
  const numbers = new FrameNumbers(RATE);
  expect(numbers.next(0, 441)).toBe(0);
  expect(numbers.next(PART_US, 441)).toBe(441);
  // Three parts are missing.
  expect(numbers.next(5 * PART_US, 441)).toBe(5 * 441);
  expect(numbers.next(6 * PART_US, 441)).toBe(6 * 441);
});
