'use client';

import { useState } from 'react';
import type { Finding } from '@/core/findings/finding';
import { assess } from '@/core/spec/assess';
import type { Verdict } from '@/core/spec/assessment';
import { factsOfFile } from '@/core/spec/facts';
import type { Spec } from '@/core/spec/spec';
import { formatBytes, formatLevel, formatSampleRate, formatTime } from '@/core/units/format';
import { MiniRule } from '@/features/common/mini-rule';
import { StateMark } from '@/features/common/state-mark';
import { cancelTask, retryTask } from '@/features/common/task-actions';
import { TaskState } from '@/features/common/task-state';
import { verdictPhrases, verdictState } from '@/features/common/verdict-words';
import { describeContents } from '@/formats/audio-format';
import type { ProgrammeView } from '@/server/jobs/jobs';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { WorkLink } from '@/ui/work-link';
import { EditProgramme } from './edit-programme';
import { FileDetails } from './file-details';
import { inGroups, inOrder, ORDERS, type RowOrder } from './row-order';
import { TrackChoice } from './track-choice';

const COLUMNS = 7;

/** Every programme of the job as it came in: format, readings, and what is worth knowing before work begins. */
export function TakeInTable({
  jobId,
  programmes,
  spec,
}: {
  jobId: string;
  programmes: readonly ProgrammeView[];
  spec: Spec;
}) {
  const [order, setOrder] = useState<RowOrder>('taken-in');
  const groups = inGroups(inOrder(programmes, order, spec));
  const groupNames = groups.flatMap(({ name }) => name ?? []);
  const row = (programme: ProgrammeView) => (
    <ProgrammeRow key={programme.id} jobId={jobId} programme={programme} spec={spec} groups={groupNames} />
  );
  return (
    <Card flush className="overflow-x-auto">
      <table className="w-full min-w-5xl border-collapse text-left">
        <thead className="text-xs text-mute">
          <tr className="border-b border-hair">
            <th className="w-8 py-2 pl-4">
              <span className="sr-only">State</span>
            </th>
            <th className="py-2 pr-4 font-normal">
              <span className="flex items-center gap-2">
                Programmes
                <Choice
                  label="Order"
                  value={order}
                  options={ORDERS}
                  onChange={(value) => setOrder(value as RowOrder)}
                  compact
                />
              </span>
            </th>
            <th className="py-2 font-normal">Format</th>
            <th className="py-2 pr-6 text-right font-normal">Integrated</th>
            <th className="py-2 pr-6 text-right font-normal">True peak</th>
            <th className="w-52 py-2 font-normal">against {spec.name}</th>
            <th className="w-[30%] py-2 pr-4 pl-6 font-normal">Misses and findings</th>
          </tr>
        </thead>
        {groups.map(({ name, programmes: members }) => (
          <tbody key={name ?? ''}>
            {name === null ? null : (
              <tr className="border-b border-hair bg-stock-1">
                <th colSpan={COLUMNS} scope="rowgroup" className="px-4 py-1.5 text-xs font-normal">
                  <span className="font-bold">{name}</span>{' '}
                  <span className="text-mute">
                    {members.length} {members.length === 1 ? 'programme' : 'programmes'} ·{' '}
                    {formatTime(members.reduce((sum, { format }) => sum + format.durationSeconds, 0))}
                  </span>
                </th>
              </tr>
            )}
            {members.map(row)}
          </tbody>
        ))}
      </table>
    </Card>
  );
}

function ProgrammeRow({
  jobId,
  programme,
  spec,
  groups,
}: {
  jobId: string;
  programme: ProgrammeView;
  spec: Spec;
  groups: readonly string[];
}) {
  const { id, title, fileName, format, sizeBytes, sha256, measured, task, note, reference } = programme;
  const verdict = measured && assess(spec, factsOfFile({ ...measured, format }));
  const state = verdict ? verdictState(verdict) : 'not-measured';
  return (
    <tr className="border-b border-hair align-top last:border-0">
      <td className="py-3 pl-4">
        <StateMark state={state} />
      </td>
      <td className="max-w-72 py-3 pr-4">
        <WorkLink
          href={`/jobs/${jobId}/measure-and-set?programme=${id}`}
          className="block truncate font-bold hover:underline"
          title={title}
        >
          {title}
        </WorkLink>
        <span className="block truncate text-xs text-mute" title={fileName}>
          {fileName}
        </span>
        {note ? <span className="mt-1 block text-xs whitespace-pre-line">{note}</span> : null}
        <span className="mt-0.5 -ml-1 flex gap-2">
          <EditProgramme programme={programme} groups={groups} />
          <FileDetails programme={programme} />
        </span>
      </td>
      <td className="py-3 pr-4 text-xs whitespace-nowrap">
        {describeContents(format)} · {formatSampleRate(format.sampleRateHz)}
        <span className="block text-mute">
          {format.layout} · {formatTime(format.durationSeconds, { milliseconds: true })} · {formatBytes(sizeBytes)}
        </span>
        {reference ? <ReferenceLine {...reference} /> : null}
        {format.track ? <TrackChoice sha256={sha256} track={format.track} /> : null}
      </td>
      {measured ? (
        <>
          <td className="py-3 pr-6 text-right font-mono text-sm whitespace-nowrap">
            {formatLevel(measured.readings.integratedLufs, 'LUFS')}
          </td>
          <td className="py-3 pr-6 text-right font-mono text-sm whitespace-nowrap">
            {formatLevel(measured.readings.truePeakDbtp, 'dBTP')}
          </td>
          <td className="py-3">
            <MiniRule readings={measured.readings} spec={spec} />
          </td>
          <td className="py-3 pr-4 pl-6">
            {verdict ? <MissList verdict={verdict} /> : null}
            <FindingList findings={measured.findings} />
          </td>
        </>
      ) : (
        <td colSpan={4} className="py-3 pr-4">
          <TaskState
            task={task}
            verb="measuring"
            onCancel={cancelTask}
            onRetry={() => (task ? void retryTask(task.taskId) : undefined)}
          />
        </td>
      )}
    </tr>
  );
}

const REFERENCE_WORDS = {
  whole: 'not copied; read from',
  touched: 'modified since, not yet compared:',
  changed: '▲ changed since it was taken in:',
  missing: '▲ missing:',
} as const;

/** Where a source lies that was not copied, and whether it is still what it was. */
function ReferenceLine({ path, state }: NonNullable<ProgrammeView['reference']>) {
  const isBroken = state === 'changed' || state === 'missing';
  return (
    <span className={isBroken ? 'block text-breach' : 'block text-mute'}>
      {REFERENCE_WORDS[state]}
      <span className="block max-w-56 truncate font-mono" title={path}>
        {path.split('/').slice(-2).join('/')}
      </span>
    </span>
  );
}

/** What of the file misses the spec, in short. */
function MissList({ verdict }: { verdict: Verdict }) {
  const misses = verdictPhrases(verdict).filter(({ state }) => state !== 'inside');
  if (misses.length === 0) return null;
  return (
    <ul aria-label="Misses" className="mb-1 flex flex-col gap-1 text-xs">
      {misses.map(({ state, text }) => (
        <li key={text} className="flex gap-1.5">
          <span className="shrink-0">
            <StateMark state={state} />
          </span>
          <span>{text}</span>
        </li>
      ))}
    </ul>
  );
}

function FindingList({ findings }: { findings: readonly Finding[] }) {
  if (findings.length === 0) return <span className="text-xs text-mute">findings: none</span>;
  return (
    <ul className="flex flex-col gap-1 text-xs">
      {findings.map(({ code, severity, message }) => (
        <li key={code} className="flex gap-1.5">
          <span className="shrink-0">
            <StateMark state={severity === 'breach' ? 'over' : 'advice'} />
          </span>
          <span>{message}</span>
        </li>
      ))}
    </ul>
  );
}
