/** Channels that are meant for loudspeakers: by name, by place, or else as a source (ITU-R BS.2127, from memory). */
import { directGains } from './direct-speakers';
import type { AdmBlock } from './model';
import { pointSourcePanner } from './panner/point-source';
import { type RenderLayout, speakersOf } from './render-layouts';

const around = (value: number, reach = 0) => ({ value, least: value - reach, most: value + reach });
function gains(layout: RenderLayout, own: Partial<AdmBlock>, lowPassHz: number | null = null): string[] {
  const speakers = speakersOf(layout);
  const block: AdmBlock = {
    startSeconds: null,
    durationSeconds: null,
    gain: 1,
    azimuth: around(0),
    elevation: around(0),
    distance: around(1),
    speakerLabels: [],
    jumpSeconds: null,
    unsupported: [],
    ...own,
  };
  const format = { id: 'AC', name: 'c', type: 'DirectSpeakers', lowPassHz, blocks: [block] } as const;
  return directGains(format, block, speakers, pointSourcePanner(layout)).flatMap((gain, i) =>
    gain === 0 ? [] : [`${speakers[i]?.name} ${gain.toFixed(3)}`],
  );
}

test('a channel goes to the loudspeaker of its name, however that is written', () => {
  for (const label of ['M+110', 'urn:itu:bs:2051:0:speaker:M+110', 'urn:itu:bs:2051:1:speaker:M+110']) {
    expect(gains('5.1', { speakerLabels: [label], azimuth: around(100) })).toEqual(['M+110 1.000']);
  }
  expect(gains('5.1', { speakerLabels: ['nobody', 'M-030'] })).toEqual(['M-030 1.000']);
});

test('LFE goes to LFE alone, by its name or by its low pass; stereo has none', () => {
  for (const label of ['LFE', 'LFE1', 'LFEL', 'urn:itu:bs:2051:0:speaker:LFE1']) {
    expect(gains('5.1', { speakerLabels: [label] })).toEqual(['LFE1 1.000']);
    expect(gains('stereo', { speakerLabels: [label] })).toEqual([]);
  }
  expect(gains('7.1.4', { azimuth: around(30) }, 120)).toEqual(['LFE1 1.000']);
  // A name that is not LFE's does not make it another.
  expect(gains('5.1', { speakerLabels: ['M+030'] }, 120)).toEqual(['LFE1 1.000']);
});

test('a place is that of a loudspeaker within its bounds, or of the nearest of them', () => {
  expect(gains('7.1', { azimuth: around(90) })).toEqual(['M+090 1.000']);
  expect(gains('5.1', { azimuth: around(100, 15) })).toEqual(['M+110 1.000']);
  expect(gains('7.1', { azimuth: around(110, 30) })).toEqual(['M+090 1.000']);
  // Bounds may go around the back.
  expect(gains('5.1', { azimuth: { value: 179, least: 100, most: -150 } })).toEqual(['M+110 1.000']);
});

test('any other place is one of a source', () => {
  expect(gains('5.1', { azimuth: around(15) })).toEqual(['M+030 0.707', 'M+000 0.707']);
  // Two that are as near are none.
  expect(gains('5.1', { azimuth: around(15, 20) })).toEqual(['M+030 0.707', 'M+000 0.707']);
  expect(gains('stereo', { speakerLabels: ['M+000'] })).toEqual(['M+030 0.707', 'M-030 0.707']);
});
