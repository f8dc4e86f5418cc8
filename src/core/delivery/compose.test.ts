import { gainOnly, type Treatment } from '../treatment/treatment';
import { deliveredTreatment, treatedProgramme } from './compose';
import { type DeliveryFormatInput, deliveryFormatSchema, resolveFormat } from './format';

const STEREO = { channels: 2, sampleRateHz: 48_000, layout: 'stereo' };
const TREATMENT: Treatment = {
  ...gainOnly(-2),
  trim: { startFrame: 1000, endFrame: 90_000 },
  paddingStart: { frames: 4800, kind: 'silence' },
  fadeIn: { frames: 1, shape: 'linear' },
  fadeOut: { frames: 9600, shape: 'equal-power' },
  dither: 'shaped',
};

const delivered = (input: DeliveryFormatInput, treatment = TREATMENT, sourceRateHz = 48_000) => {
  const format = deliveryFormatSchema.parse(input);
  return deliveredTreatment(treatment, resolveFormat(format, { ...STEREO, sampleRateHz: sourceRateHz }), sourceRateHz);
};

test('a format that changes nothing leaves the treatment as it is', () => {
  expect(delivered({ kind: 'wav' })).toEqual(TREATMENT);
});

test('another rate keeps the time of what is counted in its frames; a trim is counted in those of the source', () => {
  expect(delivered({ kind: 'wav', sampleRateHz: 96_000 })).toEqual({
    ...TREATMENT,
    resampleHz: 96_000,
    paddingStart: { frames: 9600, kind: 'silence' },
    fadeIn: { frames: 2, shape: 'linear' },
    fadeOut: { frames: 19_200, shape: 'equal-power' },
  });
  // One frame stays one.
  expect(delivered({ kind: 'wav', sampleRateHz: 8000 }).fadeIn).toEqual({ frames: 1, shape: 'linear' });
});

test('a rate that the treatment has set already is what lengths are counted at', () => {
  const at96 = { ...TREATMENT, resampleHz: 96_000 };
  expect(delivered({ kind: 'wav', sampleRateHz: 48_000 }, at96)).toMatchObject({
    resampleHz: null,
    paddingStart: { frames: 2400 },
  });
  expect(delivered({ kind: 'wav', sampleRateHz: 96_000 }, at96)).toEqual(at96);
});

test('a mono file is the mean of both channels, unless the treatment has a sum of its own', () => {
  expect(delivered({ kind: 'wav', arrangement: 'mono' }).mix).toBe('mono-6');
  expect(delivered({ kind: 'wav', arrangement: 'mono' }, { ...TREATMENT, mix: 'left' }).mix).toBe('left');
  expect(delivered({ kind: 'wav', arrangement: 'split' }).mix).toBe('stereo');
});

test('a format has its own dither, or that of the treatment', () => {
  expect(delivered({ kind: 'wav', bitDepth: 16, dither: 'rpdf' }).dither).toBe('rpdf');
  expect(delivered({ kind: 'wav', bitDepth: 16 }).dither).toBe('shaped');
});

test('nothing is done to a passthrough', () => {
  expect(delivered({ kind: 'wav', isPassthrough: true })).toEqual({ ...gainOnly(0), dither: 'none' });
});

describe('what a programme is before its own format', () => {
  const ADM = { hasTimes: true };
  const OFF = gainOnly(0);
  const treated = (
    treatment: Treatment,
    source: Parameters<typeof treatedProgramme>[1] = STEREO,
    isPassthrough = false,
  ) => treatedProgramme(treatment, source, { isPassthrough });

  test('its own channels, layout and rate, or those that its treatment makes', () => {
    expect(treated(OFF)).toEqual({ ...STEREO, adm: undefined });
    expect(treated({ ...OFF, resampleHz: 44_100 })).toMatchObject({ sampleRateHz: 44_100, layout: 'stereo' });
    expect(treated({ ...OFF, mix: 'mono-6' })).toMatchObject({ channels: 1, layout: undefined });
    expect(treated({ ...OFF, mix: 'swapped' })).toMatchObject({ channels: 2, layout: 'stereo' });
    // A mix of two says nothing of six.
    const surround = { channels: 6, sampleRateHz: 48_000, layout: '5.1' };
    expect(treated({ ...OFF, mix: 'mono-6' }, surround)).toMatchObject({ channels: 6, layout: '5.1' });
  });

  test('an audio definition is lost to a mix, and its times to a trim or padding', () => {
    const source = { ...STEREO, adm: ADM };
    expect(treated(OFF, source).adm).toEqual({ isMixed: false, isMoved: false });
    expect(treated({ ...OFF, mix: 'swapped' }, source).adm).toEqual({ isMixed: true, isMoved: false });
    expect(treated({ ...OFF, mix: 'swapped' }, { ...source, channels: 6 }).adm).toEqual({
      isMixed: false,
      isMoved: false,
    });
    for (const moved of [
      { trim: { startFrame: 1, endFrame: null } },
      { paddingStart: { frames: 1, kind: 'silence' as const } },
      { paddingEnd: { frames: 1, kind: 'silence' as const } },
    ]) {
      expect(treated({ ...OFF, ...moved }, source).adm).toEqual({ isMixed: false, isMoved: true });
      expect(treated({ ...OFF, ...moved }, { ...source, adm: { hasTimes: false } }).adm?.isMoved).toBe(false);
    }
  });

  test('a passthrough is as its source is', () => {
    expect(treated({ ...OFF, mix: 'mono-6', resampleHz: 96_000 }, { ...STEREO, adm: ADM }, true)).toEqual(STEREO);
  });
});
