'use client';

import { useQuery } from '@tanstack/react-query';
import { recordOf } from '@/features/common/data/fetch-json';
import { ErrorNotice } from '@/features/common/error-notice';
import { Many } from '@/features/common/many/many';
import { pictureMessages } from '@/features/common/messages';
import { StateMark, StatePill } from '@/features/common/state-mark';
import type { Act } from '@/features/common/use-act';
import type { FilmView } from '@/server/assemblies/film';
import type { LineUpView } from '@/server/line-ups/line-ups';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { writeRecord } from '../actions';
import { LineUpHeader } from '../line-up-header';
import { kindMessages, lineUpMessages, filmMessages as messages } from '../messages';
import { filmQuery } from '../queries';
import { WrittenRecords } from '../written-records';
import { SoundTable } from './sound-table';

/** A film: which programme goes into which of its tracks, and the film written with all of them. */
export function Film({
  jobId,
  lineUp,
  specId,
  isBusy,
  act,
  change,
  onEdit,
  onRemove,
}: {
  jobId: string;
  lineUp: LineUpView;
  specId: string;
  isBusy: boolean;
  act: Act;
  change: (lineUp: LineUpView, wanted: { specId?: string | null }) => Promise<void>;
  onEdit: () => void;
  onRemove: () => void;
}) {
  const { data: film, error } = useQuery(filmQuery(jobId, lineUp.id));
  const missing = film?.sounds.filter(({ delivery }) => !delivery) ?? [];
  return (
    <>
      <LineUpHeader
        lineUp={lineUp}
        about={film ? aboutFilm(film) : lineUpMessages.about(kindMessages.film, lineUp.members.length)}
        specId={specId}
        change={change}
        onEdit={onEdit}
        onRemove={onRemove}
      >
        {film ? <Readiness film={film} missing={missing.length} /> : null}
      </LineUpHeader>
      <ErrorNotice error={error ? recordOf(error) : undefined} />
      {film ? (
        <>
          <Many
            jobId={jobId}
            programmeIds={film.sounds.map(({ programmeId }) => programmeId)}
            specId={specId}
            isOfSpeech={false}
            format={film.wanted}
            keepsLength
            isBusy={isBusy}
            act={act}
          >
            <h2 className="text-sm font-bold">{messages.sound}</h2>
            <span className="text-sm text-mute">{messages.deliveredAs(film.wantedText)}</span>
          </Many>
          <Card flush className="overflow-x-auto">
            <SoundTable jobId={jobId} film={film} />
            <div className="flex flex-wrap items-center gap-x-4 gap-y-2 border-t border-hair px-4 py-3">
              <p role="status" className="max-w-[80ch] text-sm text-mute">
                {film.problem ? (
                  <span className="text-advice">
                    <StateMark state="advice" /> {film.problem}
                  </span>
                ) : missing.length > 0 ? (
                  <>
                    <StateMark state="not-measured" /> {messages.notDelivered(missing.map(({ title }) => title))}
                  </>
                ) : (
                  messages.whatIsCopied
                )}
              </p>
              <span className="ml-auto">
                <Button
                  kind="primary"
                  disabled={isBusy}
                  whyNot={film.problem ?? (missing.length > 0 ? messages.deliverFirst : null)}
                  onClick={() => void act(() => writeRecord(lineUp.id, { form: 'film', format: film.wanted, specId }))}
                >
                  {messages.write}
                </Button>
              </span>
            </div>
          </Card>
          <WrittenRecords jobId={jobId} lineUpId={lineUp.id} isBusy={isBusy} act={act} />
        </>
      ) : null}
    </>
  );
}

function Readiness({ film: { sounds, problem }, missing }: { film: FilmView; missing: number }) {
  if (problem) return <StatePill state="missed">{messages.doesNotFit}</StatePill>;
  if (missing > 0) return <StatePill state="not-measured">{messages.waiting(missing, sounds.length)}</StatePill>;
  return <StatePill state="inside">{messages.ready}</StatePill>;
}

function aboutFilm({ fileName, picture, timeCode, tracks }: FilmView): string {
  return [
    fileName,
    ...(picture ? [pictureMessages.is(picture)] : []),
    messages.tracks(tracks),
    ...(timeCode ? [messages.beginsAt(timeCode)] : []),
  ].join(' · ');
}
