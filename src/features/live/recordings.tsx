'use client';

import { formatNumber, formatTime } from '@/core/units/format';
import { stageAddress } from '@/features/common/address';
import type { RecordingView } from '@/server/lines/recordings';
import { WorkLink } from '@/ui/work-link';
import type { LineStore } from './line-store';
import { recordingsMessages as messages } from './messages';
import { useLine } from './use-lines';

/** What was recorded of a line, and where it is now. */
export function Recordings({ store }: { store: LineStore }) {
  const { recordings } = useLine(store);
  return (
    <section aria-label={messages.recordings} className="w-80">
      <h2 className="text-sm font-bold">{messages.recordings}</h2>
      {recordings.length === 0 ? <p className="py-1 text-xs text-mute">{messages.none}</p> : null}
      <ul className="max-h-72 overflow-y-auto text-[13px]">
        {recordings.map((recording) => (
          <Recording key={recording.id} recording={recording} />
        ))}
      </ul>
    </section>
  );
}

function Recording({ recording: { fileName, state, facts, error, jobId, programmeId } }: { recording: RecordingView }) {
  const lost = (facts?.gaps ?? []).reduce((sum, { frames }) => sum + frames, 0);
  const rateHz = facts?.sampleRateHz || 1;
  const words = [
    state === 'open'
      ? messages.open
      : state === 'recorded'
        ? messages.recorded
        : state === 'failed'
          ? messages.failed
          : '',
    facts && facts.frames > 0 ? formatTime(facts.frames / rateHz) : '',
    lost > 0 ? messages.gaps(facts?.gaps.length ?? 0, formatNumber(lost / rateHz)) : '',
  ].filter((own) => own !== '');
  return (
    <li className="border-b border-hair py-1 last:border-0">
      {programmeId ? (
        <WorkLink
          href={stageAddress(jobId, 'measure-and-set', { programme: programmeId })}
          className="font-semibold text-slide-ink hover:underline"
        >
          {fileName}
        </WorkLink>
      ) : (
        <span className="font-semibold">{fileName}</span>
      )}
      <span className="block text-xs text-mute">{words.join(' · ')}</span>
      {error ? <span className="block text-xs text-advice">{`${error.happened} ${error.todo}`}</span> : null}
    </li>
  );
}
