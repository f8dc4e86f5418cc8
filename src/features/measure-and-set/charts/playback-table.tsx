import type { Readings } from '@/core/loudness/readings';
import { playbackOf } from '@/core/spec/playback';
import type { Spec } from '@/core/spec/spec';
import { formatGain, formatLevel, formatNumber } from '@/core/units/format';
import { StateMark } from '@/features/common/state-mark';
import type { ChartTable } from './export';
import { playbackTableMessages as messages } from './messages';

/** Those that are worked for, then all others that normalise. */
function rowsOf(readings: Readings, specs: readonly Spec[], all: readonly Spec[]) {
  const others = all.filter(({ id }) => !specs.some((spec) => spec.id === id));
  return [...specs, ...others].flatMap((spec) => {
    const playback = playbackOf(readings, spec);
    return playback ? [{ spec, playback, isChosen: specs.includes(spec) }] : [];
  });
}

export function playbackTable(readings: Readings, specs: readonly Spec[], all: readonly Spec[]): ChartTable {
  return {
    columns: [
      'spec',
      messages.normalisedToCsv,
      messages.turnedByCsv,
      messages.truePeakThenCsv,
      messages.overTheCeilingCsv,
    ],
    rows: rowsOf(readings, specs, all).map(({ spec, playback: { targetLufs, gainDb, truePeakDbtp, excessDb } }) => [
      spec.name,
      targetLufs,
      Number(gainDb.toFixed(2)),
      truePeakDbtp === null ? null : Number(truePeakDbtp.toFixed(2)),
      Number(excessDb.toFixed(2)),
    ]),
  };
}

/** How this version plays where loudness is normalised: turned down or up by how much, and its peak then. */
export function PlaybackTable({
  readings,
  specs,
  all,
}: {
  readings: Readings;
  specs: readonly Spec[];
  all: readonly Spec[];
}) {
  const rows = rowsOf(readings, specs, all);
  if (rows.length === 0) return <p className="text-sm text-mute">{messages.noLoudness}</p>;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard.
    <div tabIndex={0} className="min-h-0 overflow-y-auto">
      <table className="w-full text-[13px]">
        <caption className="sr-only">{messages.caption}</caption>
        <thead className="text-left text-xs text-mute">
          <tr className="[&>th]:py-1 [&>th]:pr-3 [&>th]:font-normal">
            <th scope="col">{messages.where}</th>
            <th scope="col">{messages.normalisedTo}</th>
            <th scope="col">{messages.itIsTurned}</th>
            <th scope="col">{messages.truePeakThen}</th>
            <th scope="col">{messages.result}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ spec, playback: { targetLufs, gainDb, truePeakDbtp, excessDb }, isChosen }) => (
            <tr key={spec.id} className="border-t border-hair [&>td]:py-0.5 [&>td]:pr-3">
              <th scope="row" className={`text-left ${isChosen ? 'font-bold' : 'font-normal'}`}>
                {spec.name}
              </th>
              <td className="font-mono">{formatLevel(targetLufs, 'LUFS')}</td>
              <td className="font-mono" title={formatGain(gainDb, 2)}>
                {Math.abs(gainDb) < 0.05
                  ? messages.unchanged
                  : (gainDb < 0 ? messages.downBy : messages.upBy)(formatNumber(Math.abs(gainDb)))}
              </td>
              <td className="font-mono">{formatLevel(truePeakDbtp, 'dBTP')}</td>
              <td>
                {excessDb > 0.05 ? (
                  <span className="text-breach">
                    <StateMark state="over" />{' '}
                    {messages.overTheCeiling(formatNumber(excessDb), formatNumber(spec.peak.ceiling))}
                  </span>
                ) : (
                  <span>
                    <StateMark state="inside" /> {messages.playsAsItIs}
                  </span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
