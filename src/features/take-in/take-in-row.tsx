import { memo } from 'react';
import type { Finding } from '@/core/findings/finding';
import { kindOf } from '@/core/findings/findings';
import { READING_NAMES } from '@/core/loudness/reading-names';
import type { Phrase } from '@/core/spec/assessment';
import type { Spec } from '@/core/spec/spec';
import { type StepName, stepNamed } from '@/core/treatment/treatment';
import { formatBytes, formatLevel, formatSampleRate, formatTime } from '@/core/units/format';
import { stageAddress } from '@/features/common/address';
import { MiniRule } from '@/features/common/mini-rule';
import { StateMark } from '@/features/common/state-mark';
import { TaskState } from '@/features/common/task-state';
import { describeContents } from '@/formats/audio-format';
import type { TakeInRow } from '@/server/jobs/take-in-list';
import { Button } from '@/ui/button';
import { classNames } from '@/ui/class-names';
import { WorkLink } from '@/ui/work-link';
import { EditProgramme } from './edit-programme';
import { FileDetails } from './file-details';
import {
  columnsMessages,
  takeInRowMessages as messages,
  renderingsUnderWayMessages,
  replaceMessages,
  selectionMessages,
  tracksUnderWayMessages,
} from './messages';
import { ROW_BOX } from './row-keys';
import { TrackChoice } from './track-choice';
import type { TableLayout } from './use-columns';
import type { Selection } from './use-selection';

/** A programme as it came in: format, readings, misses and findings. Drawn again only where something of it changes, not as one scrolls. */
export const TakeInTableRow = memo(function TakeInTableRow({
  jobId,
  programme,
  spec,
  groups,
  layout: { readings, isCompact },
  index,
  measure,
  isSelected,
  onSelect,
  onReplace,
}: {
  jobId: string;
  programme: TakeInRow;
  spec: Spec;
  groups: readonly string[];
  layout: TableLayout;
  /** Among all that the table shows, for whoever measures its height. */
  index: number;
  measure: (row: HTMLTableRowElement | null) => void;
  isSelected: boolean;
  onSelect: Selection['toggle'];
  onReplace: (programme: TakeInRow) => void;
}) {
  const pad = isCompact ? 'align-middle [&>td]:py-1.5' : 'align-top [&>td]:py-3';
  const { id, title, fileName, format, sizeBytes, sha256, measured, task, note, reference } = programme;
  return (
    <tr
      ref={measure}
      data-index={index}
      aria-selected={isSelected}
      onClick={(event) => {
        const isOnRow = event.target instanceof Element && !event.target.closest('a, button, input, select, label');
        if (isOnRow && (event.shiftKey || event.ctrlKey || event.metaKey)) void onSelect(id, event.shiftKey);
      }}
      className={classNames('border-b border-hair last:border-0', isSelected && 'bg-stock-1/60', pad)}
    >
      <td className="pl-4 whitespace-nowrap">
        <input
          type="checkbox"
          aria-label={selectionMessages.select(title)}
          title={selectionMessages.rangeHint}
          {...{ [ROW_BOX]: index }}
          checked={isSelected}
          onChange={(event) => void onSelect(id, (event.nativeEvent as MouseEvent).shiftKey === true)}
          className="mr-1.5 align-middle"
        />
        <StateMark state={measured?.state ?? 'not-measured'} />
      </td>
      <td className="max-w-72 pr-4">
        <WorkLink
          href={stageAddress(jobId, 'measure-and-set', { programme: id })}
          className="block truncate font-bold hover:underline"
          title={title}
        >
          {title}
        </WorkLink>
        {isCompact ? null : (
          <>
            <span className="block truncate text-xs text-mute" title={fileName}>
              {fileName}
            </span>
            {note ? <span className="mt-1 block text-xs whitespace-pre-line">{note}</span> : null}
            <span className="mt-0.5 -ml-1 flex gap-2">
              <EditProgramme programme={programme} groups={groups} />
              <FileDetails programme={programme} />
              {measured ? (
                <Button kind="inline" onClick={() => onReplace(programme)}>
                  {replaceMessages.open}
                </Button>
              ) : null}
            </span>
          </>
        )}
      </td>
      <td className="pr-4 text-xs whitespace-nowrap">
        {isCompact ? null : (
          <>
            {describeContents(format)} · {formatSampleRate(format.sampleRateHz)}
          </>
        )}
        <span className="block text-mute">
          {format.layout} · {formatTime(format.durationSeconds, { milliseconds: true })}
          {isCompact ? '' : ` · ${formatBytes(sizeBytes)}`}
        </span>
        {reference ? <ReferenceLine {...reference} /> : null}
        {format.track ? <TrackChoice sha256={sha256} track={format.track} /> : null}
        {programme.renderings.map(({ audioProgramme, layout, task: own }) => (
          <div key={`${audioProgramme} ${layout}`} className="mt-1.5">
            <TaskState task={own} verb={renderingsUnderWayMessages.of(audioProgramme, layout)} />
          </div>
        ))}
        {programme.tracks.map(({ tracks, task: own }) => (
          <div key={tracks} className="mt-1.5">
            <TaskState task={own} verb={tracksUnderWayMessages.of(tracks)} />
          </div>
        ))}
      </td>
      {measured ? (
        <>
          {readings.map((key) => (
            <td key={key} className="pr-6 text-right font-mono text-sm whitespace-nowrap">
              {formatLevel(measured.readings[key], READING_NAMES[key].unit)}
            </td>
          ))}
          <td>
            <MiniRule readings={measured.levels} spec={spec} />
          </td>
          <td className="pr-4 pl-6">
            {isCompact ? (
              <InShort measured={measured} />
            ) : (
              <>
                <MissList misses={measured.misses} href={stageAddress(jobId, 'measure-and-set', { programme: id })} />
                <FindingList
                  findings={measured.findings}
                  hrefOf={(step) => stageAddress(jobId, 'measure-and-set', { programme: id, step })}
                />
              </>
            )}
          </td>
        </>
      ) : (
        <td colSpan={2 + readings.length} className="pr-4">
          <TaskState task={task} verb="measuring" />
        </td>
      )}
    </tr>
  );
});

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
function MissList({ misses, href }: { misses: readonly Phrase[]; href: string }) {
  if (misses.length === 0) return null;
  return (
    <ul aria-label={messages.misses} className="mb-1 flex flex-col gap-1 text-xs">
      {misses.map(({ state, text }) => (
        <li key={text} className="flex gap-1.5">
          <span className="shrink-0">
            <StateMark state={state} />
          </span>
          <WorkLink href={href} title={messages.seeOnTheDesk} className="hover:underline">
            {text}
          </WorkLink>
        </li>
      ))}
    </ul>
  );
}

/** The first thing worth knowing, and how many more there are. */
function InShort({ measured: { misses, findings } }: { measured: NonNullable<TakeInRow['measured']> }) {
  const texts = [...misses.map(({ text }) => text), ...findings.map(({ message }) => message)];
  const [first] = texts;
  if (first === undefined) return <span className="text-xs text-mute">{messages.noFindings}</span>;
  return (
    <span className="block max-w-96 truncate text-xs" title={texts.join('\n')}>
      {first}
      {texts.length > 1 ? <span className="text-mute"> · {columnsMessages.more(texts.length - 1)}</span> : null}
    </span>
  );
}

/** What was found, and where it leads: to the step that mends it. */
function FindingList({ findings, hrefOf }: { findings: readonly Finding[]; hrefOf: (step: StepName) => string }) {
  if (findings.length === 0) return <span className="text-xs text-mute">{messages.noFindings}</span>;
  return (
    <ul className="flex flex-col gap-1 text-xs">
      {findings.map((finding) => {
        const { code, severity, message } = finding;
        const step = kindOf(finding)?.step;
        return (
          <li key={code} className="flex gap-1.5">
            <span className="shrink-0">
              <StateMark state={severity === 'breach' ? 'over' : 'advice'} />
            </span>
            <span>
              {message}{' '}
              {step ? (
                <WorkLink
                  href={hrefOf(step)}
                  className="font-semibold whitespace-nowrap text-slide-ink hover:underline"
                >
                  {messages.setStep(stepNamed(step).title)}
                </WorkLink>
              ) : null}
            </span>
          </li>
        );
      })}
    </ul>
  );
}
