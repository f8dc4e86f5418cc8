'use client';

import { useQuery } from '@tanstack/react-query';
import { trackListText } from '@/core/film/track-lists';
import { verdictState } from '@/core/spec/assessment';
import { formatBytes, formatLevel, formatNumber } from '@/core/units/format';
import { StatePill } from '@/features/common/state-mark';
import { TaskState } from '@/features/common/task-state';
import type { Act } from '@/features/common/use-act';
import type { AssemblyView } from '@/server/assemblies/assemblies';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { Popup } from '@/ui/popup';
import { discardRecord } from './actions';
import { writtenMessages as messages } from './messages';
import { assembliesQuery } from './queries';

/** Less is none: it would be told as 0.00 ms. */
const LEAST_TOLD_MS = 0.005;

/** What was written of a line-up, and what is being written. */
export function WrittenRecords({
  jobId,
  lineUpId,
  isBusy,
  act,
}: {
  jobId: string;
  lineUpId: string;
  isBusy: boolean;
  act: Act;
}) {
  const { data: assemblies = [] } = useQuery(assembliesQuery(jobId, lineUpId));
  if (assemblies.length === 0) return null;
  return (
    <Card flush>
      <h2 className="px-4 pt-3 text-sm font-bold">{messages.heading}</h2>
      <ul>
        {assemblies.map((own) => (
          <li key={own.id} className="border-b border-hair px-4 py-2 last:border-b-0">
            <Written assembly={own} isBusy={isBusy} act={act} />
          </li>
        ))}
      </ul>
    </Card>
  );
}

function Written({ assembly, isBusy, act }: { assembly: AssemblyView; isBusy: boolean; act: Act }) {
  const { id, folderName, form, formatText, outcome, task } = assembly;
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
      <div className="min-w-0">
        <p className="truncate text-sm font-bold">{folderName}</p>
        <p className="text-xs text-mute">
          {messages[form]} · {formatText}
        </p>
      </div>
      {outcome ? (
        <>
          {outcome.sounds ? (
            <Sounds sounds={outcome.sounds} />
          ) : (
            <StatePill state={verdictState(outcome.verdict)}>
              {messages.whole(
                formatLevel(outcome.report.readings.integratedLufs, 'LUFS'),
                formatLevel(outcome.report.readings.truePeakDbtp, 'dBTP'),
              )}
            </StatePill>
          )}
          <CdPill cd={outcome.cd} />
          <SumPill residual={outcome.residual} />
          <span className="ml-auto flex items-center gap-2">
            <Files assembly={assembly} files={outcome.files} />
            <a
              href={`/api/assemblies/${id}/zip`}
              download
              className="rounded-control border border-hair bg-sheet px-3 py-1.5 text-sm font-semibold hover:border-stock-3"
            >
              {messages.download}
            </a>
            <Button
              disabled={isBusy}
              aria-label={messages.discardHint(folderName)}
              onClick={() => void act(() => discardRecord(id))}
            >
              {messages.discard}
            </Button>
          </span>
        </>
      ) : (
        <span className="ml-auto min-w-64">
          <TaskState task={task} verb="writing" />
        </span>
      )}
    </div>
  );
}

/** What was read of each sound of a film, from the film. */
function Sounds({ sounds }: { sounds: NonNullable<NonNullable<AssemblyView['outcome']>['sounds']> }) {
  return sounds.map(({ tracks, verdict, report: { readings }, movedMs }) => {
    const text = trackListText(tracks);
    const by = formatNumber(Math.abs(movedMs), 2);
    return (
      <span key={text} className="flex items-center gap-2">
        <StatePill state={verdictState(verdict)}>
          {messages.sound(
            text,
            formatLevel(readings.integratedLufs, 'LUFS'),
            formatLevel(readings.truePeakDbtp, 'dBTP'),
          )}
        </StatePill>
        {Math.abs(movedMs) >= LEAST_TOLD_MS ? (
          <span className="text-xs text-mute">{movedMs > 0 ? messages.moved(by) : messages.movedEarlier(by)}</span>
        ) : null}
      </span>
    );
  });
}

function CdPill({ cd }: { cd: NonNullable<AssemblyView['outcome']>['cd'] }) {
  if (!cd) return null;
  const missed = cd.filter(({ inside }) => !inside);
  return (
    <StatePill state={missed[0]?.state ?? 'inside'}>
      {missed.length === 0 ? messages.cdMet : messages.cdMissed(missed.length)}
    </StatePill>
  );
}

function SumPill({ residual }: { residual: NonNullable<AssemblyView['outcome']>['residual'] }) {
  if (!residual) return null;
  const { nulls, greatestResidualDb } = residual;
  const left = greatestResidualDb === null ? null : formatLevel(greatestResidualDb, 'dBFS');
  return (
    <StatePill state={nulls ? 'inside' : 'missed'}>
      {nulls ? messages.addsUp(left) : messages.doesNotAddUp(left ?? '')}
    </StatePill>
  );
}

/** Every file by itself, to be downloaded. */
function Files({
  assembly: { id },
  files,
}: {
  assembly: AssemblyView;
  files: NonNullable<AssemblyView['outcome']>['files'];
}) {
  return (
    <Popup name={messages.files(files.length)}>
      <ul className="max-h-80 w-max max-w-[32rem] overflow-y-auto">
        {files.map(({ fileName, sizeBytes }, part) => (
          <li key={fileName} className="flex items-baseline justify-between gap-6 py-1 text-sm">
            <a href={`/api/assemblies/${id}/file?part=${part}`} download className="truncate hover:underline">
              {fileName}
            </a>
            <span className="font-mono text-xs text-mute">{formatBytes(sizeBytes)}</span>
          </li>
        ))}
      </ul>
    </Popup>
  );
}
