import { breach, count, defineFinding, timeOf } from './finding';

export const clippedRuns = defineFinding({
  code: 'clipped-runs',
  criterion: 'three or more equal samples at full scale that the signal enters or leaves with a jump',
  placeName: 'Clipped run',
  short: ({ clippedRuns }) => count(clippedRuns, 'clipped run', 'clipped runs'),
  look(looked) {
    const { readings, clipped } = looked;
    if (!clipped) return null;
    const counts = readings.perChannel.flatMap(({ label, clippedRuns: n }) => (n > 0 ? [`${label} ${n}`] : []));
    const runs = count(readings.clippedRuns, 'clipped run', 'clipped runs');
    const { frames, startFrame } = clipped.longest;
    return breach(
      `${runs} (${counts.join(', ')}), the longest ${frames} samples at ${timeOf(startFrame, looked)}: clipped at full scale, which no gain repairs. Ask for a mix with more headroom.`,
      clipped.first,
    );
  },
});
