import { ClippedRunDetector } from './clipped-runs';

const { sin, PI, max, min, round } = Math;

function detect(samples: Float32Array, pieceFrames = samples.length) {
  const detector = new ClippedRunDetector();
  for (let start = 0; start < samples.length; start += pieceFrames) {
    const piece = samples.subarray(start, start + pieceFrames);
    detector.process(piece, piece.length);
  }
  detector.finish();
  return detector.found;
}

/** A sine at an amplitude, quantised to 16 bit and held at its limits, as a converter does. */
function converted(hz: number, amplitude: number, seconds = 1): Float32Array {
  return Float32Array.from({ length: 48_000 * seconds }, (_, n) => {
    const code = round(amplitude * 32_767 * sin((2 * PI * hz * n) / 48_000));
    return max(-32_768, min(32_767, code)) / 32_768;
  });
}

test('a sine 3 dB over full scale is clipped at the top and the bottom of every period', () => {
  const detector = detect(converted(100, 1.41));
  expect(detector.count).toBe(200);
  expect(detector.runs[0]?.frames).toBeGreaterThan(100);
});

test.each([20, 50, 100, 997])(
  'a sine of %i Hz that only reaches full scale is not clipped, flat as its top is',
  (hz) => {
    expect(detect(converted(hz, 1)).count).toBe(0);
  },
);

test('two equal samples are no run, three are, and the cut of the pieces does not matter', () => {
  const samples = new Float32Array(64).fill(0.2);
  samples.set([1, 1], 10);
  samples.set([-1, -1, -1], 20);
  samples.set([1, 1, 1, 1], 60);
  for (const pieceFrames of [1, 7, 64]) {
    expect(detect(samples, pieceFrames).runs).toEqual([
      { startFrame: 20, frames: 3 },
      { startFrame: 60, frames: 4 },
    ]);
  }
});

test('values beyond full scale in float count only where they are cut flat', () => {
  expect(detect(Float32Array.from({ length: 4800 }, (_, n) => 1.6 * sin(n / 9))).count).toBe(0);
  expect(detect(Float32Array.from({ length: 4800 }, (_, n) => min(1.2, 1.6 * sin(n / 9)))).count).toBeGreaterThan(10);
});
