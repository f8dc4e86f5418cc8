import type { Readings } from '@/core/loudness/readings';
import { addGain } from '@/core/units/decibel';
import { formatLevel, formatNumber, formatTime } from '@/core/units/format';
import type { AudioFormat } from '@/formats/audio-format';
import { Popup } from '@/ui/popup';
import { LayoutChoice } from './layout-choice';
import { perChannelMessages as messages } from './messages';

/** Opens each channel's peaks with their times, DC and clipped runs, and the layout; peaks as the gain leaves them. */
export function PerChannel({
  source,
  gainDb,
  format,
  layoutId,
  sha256,
}: {
  source: Readings;
  gainDb: number;
  format: AudioFormat;
  layoutId: string | null;
  sha256: string;
}) {
  const time = (frame: number) => formatTime(frame / format.sampleRateHz, { milliseconds: true });
  return (
    <Popup name="per channel">
      <table>
        <caption className="pb-2 text-left font-bold">{messages.eachChannelAfterTheGain}</caption>
        <thead className="text-xs text-mute">
          <tr className="[&>th]:px-2 [&>th]:pb-1 [&>th]:text-right [&>th]:font-normal">
            <th />
            <th colSpan={2}>{messages.truePeakAt}</th>
            <th colSpan={2}>{messages.samplePeakAt}</th>
            <th>{messages.dcOfTheSource}</th>
            <th>{messages.clippedRuns}</th>
          </tr>
        </thead>
        <tbody className="font-mono">
          {source.perChannel.map((channel) => (
            <tr key={channel.label} className="border-t border-hair [&>td]:px-2 [&>td]:py-1 [&>td]:text-right">
              <th scope="row" className="pr-2 text-left font-sans">
                {channel.label}
              </th>
              <td>{formatLevel(addGain(channel.truePeakDbtp, gainDb), 'dBTP')}</td>
              <td className="text-mute">{channel.truePeakDbtp === null ? '◌' : time(channel.truePeakFrame)}</td>
              <td>{formatLevel(addGain(channel.samplePeakDbfs, gainDb), 'dBFS')}</td>
              <td className="text-mute">{channel.samplePeakDbfs === null ? '◌' : time(channel.samplePeakFrame)}</td>
              <td>{formatNumber(channel.dcOffset * 100, 3)} %</td>
              <td>{channel.clippedRuns}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <LayoutChoice format={format} layoutId={layoutId} sha256={sha256} />
    </Popup>
  );
}
