import type { Finding } from '@/core/findings/finding';
import type { Phrase } from '@/core/spec/assessment';
import type { Spec } from '@/core/spec/spec';
import { formatBytes, formatLevel, formatSampleRate, formatTime } from '@/core/units/format';
import { stageAddress } from '@/features/common/address';
import { MiniRule } from '@/features/common/mini-rule';
import { StateMark } from '@/features/common/state-mark';
import { TaskState } from '@/features/common/task-state';
import { describeContents } from '@/formats/audio-format';
import type { TakeInRow } from '@/server/jobs/take-in-list';
import { classNames } from '@/ui/class-names';
import { WorkLink } from '@/ui/work-link';
import { EditProgramme } from './edit-programme';
import { FileDetails } from './file-details';
import { takeInRowMessages as messages, selectionMessages } from './messages';
import { TrackChoice } from './track-choice';

/** A programme as it came in: format, readings, misses and findings. */
export function TakeInTableRow({
  jobId,
  programme,
  spec,
  groups,
  index,
  measure,
  isSelected,
  onSelect,
}: {
  jobId: string;
  programme: TakeInRow;
  spec: Spec;
  groups: readonly string[];
  /** Among all that the table shows, for whoever measures its height. */
  index: number;
  measure: (row: HTMLTableRowElement | null) => void;
  isSelected: boolean;
  /** @param isRange with everything between this and the one before */
  onSelect: (isRange: boolean) => void;
}) {
  const { id, title, fileName, format, sizeBytes, sha256, measured, task, note, reference } = programme;
  return (
    <tr
      ref={measure}
      data-index={index}
      className={classNames('border-b border-hair align-top last:border-0', isSelected && 'bg-stock-1/60')}
    >
      <td className="py-3 pl-4 whitespace-nowrap">
        <input
          type="checkbox"
          aria-label={selectionMessages.select(title)}
          title={selectionMessages.rangeHint}
          checked={isSelected}
          onChange={(event) => onSelect((event.nativeEvent as MouseEvent).shiftKey === true)}
          className="mr-1.5 align-middle"
        />
        <StateMark state={measured?.state ?? 'not-measured'} />
      </td>
      <td className="max-w-72 py-3 pr-4">
        <WorkLink
          href={stageAddress(jobId, 'measure-and-set', { programme: id })}
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
            {formatLevel(measured.levels.integratedLufs, 'LUFS')}
          </td>
          <td className="py-3 pr-6 text-right font-mono text-sm whitespace-nowrap">
            {formatLevel(measured.levels.truePeakDbtp, 'dBTP')}
          </td>
          <td className="py-3">
            <MiniRule readings={measured.levels} spec={spec} />
          </td>
          <td className="py-3 pr-4 pl-6">
            <MissList misses={measured.misses} />
            <FindingList findings={measured.findings} />
          </td>
        </>
      ) : (
        <td colSpan={4} className="py-3 pr-4">
          <TaskState task={task} verb="measuring" />
        </td>
      )}
    </tr>
  );
}

const REFERENCE_WORDS = {
  whole: messages.readInPlace,
  touched: messages.modified,
  changed: messages.changed,
  missing: '▲ missing:',
} as const;

/** Where a source lies that was not copied, and whether it is still what it was. */
function ReferenceLine({ path, state }: NonNullable<TakeInRow['reference']>) {
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
function MissList({ misses }: { misses: readonly Phrase[] }) {
  if (misses.length === 0) return null;
  return (
    <ul aria-label={messages.misses} className="mb-1 flex flex-col gap-1 text-xs">
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
  if (findings.length === 0) return <span className="text-xs text-mute">{messages.noFindings}</span>;
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
