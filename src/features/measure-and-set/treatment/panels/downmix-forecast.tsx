import type { Loudspeaker } from '@/core/loudness/channel-layout';
import type { Readings } from '@/core/loudness/readings';
import { DOWNMIXES } from '@/core/treatment/downmixes';
import type { Treatment } from '@/core/treatment/treatment';
import { formatLevel } from '@/core/units/format';
import type { SourceKey } from '@/features/common/use-trace';
import { useTreated } from '@/features/common/use-treated';
import type { AudioFormat } from '@/formats/audio-format';
import { downmixForecastMessages as messages } from './messages';

interface DownmixForecastProps {
  programme: SourceKey;
  /** Readings of the source. */
  source: Readings;
  format: AudioFormat;
  treatment: Treatment;
  /** What the source's channels are for. */
  from: Loudspeaker[];
  /** Of the spec. */
  ceilingDbtp: number;
}

/** What a treatment makes of a programme as it is and of its downmixes, side by side. */
export function DownmixForecast({ from, ...programme }: DownmixForecastProps) {
  return (
    <table className="w-full text-[13px]">
      <thead className="text-left text-xs text-mute">
        <tr>
          <th className="font-normal">{messages.withThisTreatment}</th>
          <th className="pl-3 text-right font-normal">{messages.integrated}</th>
          <th className="pl-3 text-right font-normal">{messages.truePeak}</th>
        </tr>
      </thead>
      <tbody>
        <Row name={programme.format.layout} downmix={null} {...programme} />
        {DOWNMIXES.map((to) => (
          <Row key={to} name={messages.names[to]} downmix={{ to, from }} {...programme} />
        ))}
      </tbody>
    </table>
  );
}

function Row({
  name,
  programme: { programmeId, sha256 },
  source,
  format,
  treatment,
  downmix,
  ceilingDbtp,
}: Omit<DownmixForecastProps, 'from'> & { name: string; downmix: Treatment['downmix'] }) {
  const { after, isPreparing, hasFailed } = useTreated(
    { id: programmeId, sha256, format },
    { readings: source },
    { ...treatment, downmix },
  );
  const isOver = after.truePeakDbtp !== null && after.truePeakDbtp > ceilingDbtp;
  return (
    <tr aria-busy={isPreparing}>
      <th className="text-left font-normal">{name}</th>
      {isPreparing || hasFailed ? (
        <td colSpan={2} className="pl-3 text-right text-mute">
          {hasFailed ? messages.failed : messages.measuring}
        </td>
      ) : (
        <>
          <td className="pl-3 text-right font-mono whitespace-nowrap">{formatLevel(after.integratedLufs, 'LUFS')}</td>
          <td className="pl-3 text-right font-mono whitespace-nowrap">
            {isOver ? <span title={messages.aboveCeiling(formatLevel(ceilingDbtp, 'dBTP'))}>▲ </span> : null}
            {formatLevel(after.truePeakDbtp, 'dBTP')}
          </td>
        </>
      )}
    </tr>
  );
}
