import { WAVEFORM_BUCKET_FRAMES, WaveformBuilder, waveformColumns } from './waveform';

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
