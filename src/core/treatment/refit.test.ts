import * as fc from 'fast-check';
import { refitRange, refitSteps, refitTreatment } from './refit';
import { gainOnly, treatmentSchema } from './treatment';

const OLD = { sampleRateHz: 48_000, frames: 480_000, channels: 2 };

test('a range that fits stays, one that reaches behind the end is cut, and one that begins there is gone', () => {
  const shorter = { ...OLD, frames: 240_000 };
  expect(refitRange({ startFrame: 100, endFrame: 200_000 }, OLD, shorter)).toEqual({
    range: { startFrame: 100, endFrame: 200_000 },
    misfit: null,
  });
  expect(refitRange({ startFrame: 100, endFrame: 300_000 }, OLD, shorter)).toEqual({
    range: { startFrame: 100, endFrame: 240_000 },
    misfit: 'cut',
  });
  expect(refitRange({ startFrame: 240_000, endFrame: null }, OLD, shorter)).toEqual({ range: null, misfit: 'removed' });
});

test('at another rate everything keeps its time', () => {
  const treatment = treatmentSchema.parse({
    gainDb: -2,
    trim: { startFrame: 48_000, endFrame: 96_000 },
    paddingStart: { frames: 24_000, kind: 'room-tone', toneStartFrame: 4800 },
    fadeOut: { frames: 9600, shape: 's-curve' },
  });
  const { treatment: moved, misfits } = refitTreatment(treatment, OLD, {
    ...OLD,
    sampleRateHz: 96_000,
    frames: 960_000,
  });
  expect(misfits).toEqual([]);
  expect(moved).toMatchObject({
    gainDb: -2,
    trim: { startFrame: 96_000, endFrame: 192_000 },
    paddingStart: { frames: 48_000, toneStartFrame: 9600 },
    fadeOut: { frames: 19_200 },
  });
});

test('lengths at a rate of their own stay, whatever the rate of the source', () => {
  const treatment = treatmentSchema.parse({
    gainDb: 0,
    resampleHz: 44_100,
    paddingEnd: { frames: 44_100, kind: 'silence' },
  });
  const to = { ...OLD, sampleRateHz: 96_000, frames: 960_000 };
  expect(refitTreatment(treatment, OLD, to).treatment.paddingEnd).toEqual({ frames: 44_100, kind: 'silence' });
});

test('a mix of two channels is off where the new one has others; of a sum nothing is lost in mono', () => {
  const swapped = treatmentSchema.parse({ gainDb: 0, mix: 'swapped' });
  const summed = treatmentSchema.parse({ gainDb: 0, mix: 'mono-6' });
  const mono = { ...OLD, channels: 1 };
  expect(refitTreatment(swapped, OLD, mono)).toEqual({
    treatment: gainOnly(0),
    misfits: [{ step: 'channels', misfit: 'removed' }],
  });
  expect(refitTreatment(summed, OLD, mono)).toEqual({ treatment: gainOnly(0), misfits: [] });
  expect(refitTreatment(summed, OLD, { ...OLD, channels: 6 }).misfits).toHaveLength(1);
});

test('a downmix goes by what the channels of the new source are for, and is off where there is none to make', () => {
  const six = { ...OLD, channels: 6, layout: '5.1' };
  const downmix = { to: 'stereo', from: ['L', 'R', 'C', 'LFE', 'Ls', 'Rs'] };
  const treatment = treatmentSchema.parse({ gainDb: 0, downmix, mix: 'mono-6' });
  const film = refitTreatment(treatment, six, { ...six, layout: '5.1 in film order' });
  expect(film).toMatchObject({
    treatment: { downmix: { to: 'stereo', from: ['L', 'C', 'R', 'Ls', 'Rs', 'LFE'] }, mix: 'mono-6' },
    misfits: [],
  });
  expect(refitTreatment(treatment, six, { ...OLD, layout: 'stereo' })).toMatchObject({
    treatment: { downmix: null, mix: 'mono-6' },
    misfits: [],
  });
  expect(refitTreatment(treatment, six, { ...OLD, channels: 9, layout: '9 channels' })).toMatchObject({
    treatment: { downmix: null, mix: 'stereo' },
    misfits: [
      { step: 'downmix', misfit: 'removed' },
      { step: 'channels', misfit: 'removed' },
    ],
  });
});

test('room tone from a place that is gone is found anew', () => {
  const treatment = treatmentSchema.parse({
    gainDb: 0,
    paddingEnd: { frames: 4800, kind: 'room-tone', toneStartFrame: 400_000 },
  });
  const { treatment: moved, misfits } = refitTreatment(treatment, OLD, { ...OLD, frames: 100_000 });
  expect(moved.paddingEnd).toEqual({ frames: 4800, kind: 'room-tone' });
  expect(misfits).toEqual([{ step: 'room-tone', misfit: 'removed' }]);
});

test('single steps keep their time at the rate that the other is written at; the rest is left out', () => {
  const treatment = treatmentSchema.parse({
    gainDb: 3,
    resampleHz: 96_000,
    trim: { startFrame: 48_000, endFrame: 96_000 },
    paddingStart: { frames: 48_000, kind: 'silence' },
    fadeIn: { frames: 9600, shape: 's-curve' },
  });
  const to = { sampleRateHz: 44_100, frames: 441_000, channels: 2, resampleHz: null };
  // Half a second is 22,050 frames at its own rate; where the rate is copied as well, lengths stay.
  expect(refitSteps(treatment, ['trim', 'paddingStart'], OLD, to)).toEqual({
    steps: { trim: { startFrame: 44_100, endFrame: 88_200 }, paddingStart: { frames: 22_050, kind: 'silence' } },
    unfit: [],
  });
  expect(refitSteps(treatment, ['fadeIn', 'resampleHz'], OLD, to).steps).toEqual({
    fadeIn: { frames: 9600, shape: 's-curve' },
    resampleHz: 96_000,
  });
  expect(refitSteps(treatment, ['fadeIn'], OLD, { ...to, resampleHz: 48_000 }).steps.fadeIn?.frames).toBe(4800);
  // What is off is set as well; what does not fit is not.
  expect(refitSteps(treatment, ['limit', 'trim', 'gainDb'], OLD, { ...to, frames: 44_100 })).toEqual({
    steps: { limit: null, gainDb: 3 },
    unfit: ['trim'],
  });
  const swapped = treatmentSchema.parse({ gainDb: 0, mix: 'swapped' });
  expect(refitSteps(swapped, ['mix'], OLD, { ...to, channels: 1 })).toEqual({ steps: {}, unfit: ['mix'] });
});

test('whatever the lengths and rates, nothing lies behind the end of the new source', () => {
  const shape = fc.record({
    sampleRateHz: fc.constantFrom(44_100, 48_000, 96_000),
    frames: fc.integer({ min: 1, max: 1e6 }),
    channels: fc.constantFrom(1, 2, 6),
  });
  fc.assert(
    fc.property(shape, shape, fc.nat(1e6), fc.integer({ min: 1, max: 1e6 }), (from, to, startFrame, length) => {
      const trim = { startFrame, endFrame: startFrame + length };
      const { treatment } = refitTreatment(treatmentSchema.parse({ gainDb: 0, trim }), from, to);
      // It is a treatment still.
      expect(treatmentSchema.parse(treatment)).toEqual(treatment);
      if (treatment.trim) {
        expect(treatment.trim.startFrame).toBeLessThan(to.frames);
        expect(treatment.trim.endFrame).toBeLessThanOrEqual(to.frames);
      }
    }),
  );
});
