import {
  WAVEFORM_BUCKET_FRAMES,
  WAVEFORM_LEVELS,
  type Waveform,
  WaveformBuilder,
  WaveformPyramid,
  waveformColumns,
  waveformLevel,
} from './waveform';

function build(samples: Float32Array, pieceFrames: number) {
  const builder = new WaveformBuilder();
  for (let start = 0; start < samples.length; start += pieceFrames) {
    const piece = samples.subarray(start, start + pieceFrames);
    builder.process(piece, piece.length);
  }
  return builder.finish();
}

test('every bucket holds the extremes of its frames, the last one of what is left', () => {
  const samples = Float32Array.from({ length: WAVEFORM_BUCKET_FRAMES * 2 + 10 }, (_, i) => Math.sin(i / 7) * (i / 600));
  const waveform = build(samples, 100);
  expect(waveform.min).toHaveLength(3);
  const first = samples.subarray(0, WAVEFORM_BUCKET_FRAMES);
  expect(waveform.max[0]).toBe(Math.max(...first));
  expect(waveform.min[0]).toBe(Math.min(...first));
  expect(waveform.max[2]).toBe(Math.max(...samples.subarray(2 * WAVEFORM_BUCKET_FRAMES)));
});

test('columns show every extreme, with more and with fewer columns than buckets', () => {
  const samples = new Float32Array(WAVEFORM_BUCKET_FRAMES * 100);
  samples[12_345] = 0.9;
  samples[20_000] = -0.7;
  const waveform = build(samples, 1000);
  for (const columns of [7, 100, 333]) {
    const cut = waveformColumns(waveform, samples.length, columns);
    expect(Math.max(...cut.max)).toBeCloseTo(0.9, 6);
    expect(Math.min(...cut.min)).toBeCloseTo(-0.7, 6);
    expect(cut.max[Math.floor((12_345 / samples.length) * columns)]).toBeCloseTo(0.9, 6);
  }
});

test('every level of the pyramid holds the extremes of its frames, however the segments fall', () => {
  const frames = 5 * 65_536 + 1000;
  const samples = Float32Array.from({ length: frames }, (_, i) => Math.sin(i * 1.7) * Math.sin(i / 40_000));
  // Segments end within a bucket; the next one begins with the rest of it.
  const edges = [0, 65_536 + 64, 3 * 65_536 - 16, frames];
  const levels = WAVEFORM_LEVELS.map(() => ({ min: [] as number[], max: [] as number[] }));
  const pyramid = new WaveformPyramid((level, firstBucket, part: Waveform) => {
    expect(firstBucket).toBe(levels[level]?.min.length);
    levels[level]?.min.push(...part.min);
    levels[level]?.max.push(...part.max);
  });
  edges.slice(1).forEach((end, i) => {
    const start = edges[i] ?? Number.NaN;
    const first = build(samples.subarray(start, Math.min(end, start + (-start & 255))), 512);
    const rest = build(samples.subarray(start + (-start & 255), end), 512);
    const part = { min: [...first.min, ...rest.min], max: [...first.max, ...rest.max] };
    pyramid.add({ min: Float32Array.from(part.min), max: Float32Array.from(part.max) }, start);
  });
  pyramid.finish();
  WAVEFORM_LEVELS.forEach((bucketFrames, level) => {
    const expected = Array.from({ length: Math.ceil(frames / bucketFrames) }, (_, bucket) =>
      samples.subarray(bucket * bucketFrames, (bucket + 1) * bucketFrames),
    );
    expect(levels[level]?.max).toEqual(expected.map((part) => part.reduce((a, b) => Math.max(a, b))));
    expect(levels[level]?.min).toEqual(expected.map((part) => part.reduce((a, b) => Math.min(a, b))));
  });
});

test('the coarsest level that is fine enough is chosen', () => {
  expect(waveformLevel(10 * 48_000, 1600)).toBe(0);
  expect(waveformLevel(300 * 48_000, 1600)).toBe(1);
  expect(waveformLevel(6 * 3600 * 48_000, 1600)).toBe(2);
});
