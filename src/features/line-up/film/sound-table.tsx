import { formatLevel } from '@/core/units/format';
import { stageAddress } from '@/features/common/address';
import { StatePill } from '@/features/common/state-mark';
import type { FilmView } from '@/server/assemblies/film';
import { WorkLink } from '@/ui/work-link';
import { filmMessages as messages } from '../messages';

const HEADS = ['intoTrack', 'programme', 'file', 'levels', 'keptAs'] as const;

/** Every track of a film: what goes into it, or that it is copied. */
export function SoundTable({ jobId, film: { sounds, copiedTracks } }: { jobId: string; film: FilmView }) {
  return (
    <table className="w-full text-sm">
      <thead>
        <tr className="border-b border-hair text-left text-xs text-mute">
          {HEADS.map((head) => (
            <th key={head} scope="col" className="px-4 py-2 font-normal">
              {messages[head]}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {sounds.map(({ programmeId, title, tracks, codecText, delivery, problem }) => (
          <tr key={programmeId} className="border-b border-hair last:border-b-0">
            <td className="px-4 py-2 font-mono whitespace-nowrap">{tracks ?? '–'}</td>
            <th scope="row" className="px-4 py-2 text-left font-semibold">
              <WorkLink
                className="hover:underline"
                href={stageAddress(jobId, 'measure-and-set', { programme: programmeId })}
              >
                {title}
              </WorkLink>
            </th>
            <td className="px-4 py-2">
              {delivery ? (
                <>
                  <span className="block">{delivery.fileName}</span>
                  <span className="block text-xs text-mute">{delivery.formatText}</span>
                </>
              ) : (
                <span className="text-mute">{messages.noFile}</span>
              )}
              {problem ? <span className="block text-xs text-advice">{problem}</span> : null}
            </td>
            <td className="px-4 py-2 whitespace-nowrap">
              {delivery ? (
                <StatePill state={delivery.state}>
                  {messages.reads(
                    formatLevel(delivery.integratedLufs, 'LUFS'),
                    formatLevel(delivery.truePeakDbtp, 'dBTP'),
                  )}
                </StatePill>
              ) : null}
            </td>
            <td className="px-4 py-2 whitespace-nowrap">{codecText}</td>
          </tr>
        ))}
        {copiedTracks.length > 0 ? (
          <tr className="text-mute">
            <td className="px-4 py-2 font-mono whitespace-nowrap">{copiedTracks.join(', ')}</td>
            <td className="px-4 py-2" colSpan={4}>
              {messages.copied(copiedTracks.length)}
            </td>
          </tr>
        ) : null}
      </tbody>
    </table>
  );
}
