import { LineMeter } from '../line-meter';
import { simulatedSound } from './sound';

const RATE = 48_000;

function sound(startFrame: number, frames: number, seed = 1): [Float32Array, Float32Array] {
  const channels: [Float32Array, Float32Array] = [new Float32Array(frames), new Float32Array(frames)];
  simulatedSound(channels, startFrame, frames, RATE, seed);
  return channels;
}

test('the sound is the same wherever it is begun, and another for another seed', () => {
  const [whole] = sound(0, 3 * RATE);
  const [later] = sound(70_001, 1000);
  expect(whole.subarray(70_001, 71_001)).toEqual(later);
  expect(sound(70_001, 1000, 2)[0]).not.toEqual(later);
});

test('it reads about as a broadcast does, and nothing in it is an over', () => {
  const meter = new LineMeter(RATE, [1, 1]);
  for (let second = 0; second < 120; second++) meter.process(sound(second * RATE, RATE), RATE);
  const { readings } = meter.finish();
  expect(Math.abs((readings.integratedLufs ?? 0) + 23)).toBeLessThan(0.5);
  expect(readings.truePeakDbtp).toBeLessThan(-6);
  expect(readings.loudnessRangeLu).toBeLessThan(8);
});
