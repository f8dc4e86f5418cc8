'use client';

import { Download, FileCheck, Pencil, X } from 'lucide-react';
import { useState } from 'react';
import { fileStem } from '@/core/delivery/file-name';
import { describeWay } from '@/core/delivery/line';
import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import { peakUnit, specLoudness, specPeak } from '@/core/spec/verdict';
import { limitName } from '@/core/treatment/limit-name';
import { formatBytes, formatLevel, formatNumber } from '@/core/units/format';
import { MiniRule } from '@/features/common/mini-rule';
import { StateMark, StatePill } from '@/features/common/state-mark';
import { cancelTask, retryTask } from '@/features/common/task-actions';
import { TaskState } from '@/features/common/task-state';
import type { Act } from '@/features/common/use-act';
import { verdictPhrases, verdictState } from '@/features/common/verdict-words';
import type { LineView } from '@/server/deliveries/sheet';
import type { DeliveryView, ProgrammeView } from '@/server/jobs/jobs';
import type { ReceiverView } from '@/server/receivers/receivers';
import { Button, ButtonLink } from '@/ui/button';
import { Card } from '@/ui/card';
import { changeRow, removeRow, type WhatToDeliver } from './actions';
import { Decide } from './decide';
import { DeliveryDialog } from './delivery-dialog';
import { SendingState } from './sending-state';
import { standingOf } from './standing';
import { keyOf, type PredictionFailures } from './use-predictions';

const COLUMNS = 8;

/** The rows: what is asked, where it will land or has landed, what that took, and how far it is. */
export function Sheet({
  lines,
  failures,
  template,
  withTitles,
  programmes,
  receivers,
  isTicked,
  onTick,
  act,
}: {
  lines: readonly LineView[];
  failures: PredictionFailures;
  template: string;
  /** Of several programmes: each row tells which is its own. */
  withTitles: boolean;
  programmes: readonly ProgrammeView[];
  receivers: readonly ReceiverView[];
  isTicked: (line: LineView) => boolean;
  onTick: (line: LineView, isOn: boolean) => void;
  act: Act;
}) {
  const [changed, setChanged] = useState<LineView>();
  const programme = programmes.find(({ id }) => id === changed?.programmeId);
  return (
    <Card flush className="overflow-x-auto">
      <table aria-label="Deliveries" className="w-full min-w-6xl border-collapse text-left">
        <thead className="text-xs text-mute">
          <tr className="border-b border-hair [&>th]:py-2 [&>th]:font-normal">
            <th className="w-10 pl-4">
              <span className="sr-only">to write</span>
            </th>
            <th className="w-48">Delivery</th>
            <th>File</th>
            <th className="w-48 pl-2">
              <span className="flex justify-between">
                <span>lands at</span>
                <span>peak</span>
              </span>
            </th>
            <th className="w-24 pl-3">limiter</th>
            <th className="w-44">predicted → measured</th>
            <th className="w-20">size</th>
            <th className="w-68 pr-4">state</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <Row
              key={line.id}
              line={line}
              failure={failures.get(keyOf(line))}
              template={template}
              withTitle={withTitles}
              isTicked={isTicked(line)}
              onTick={(isOn) => onTick(line, isOn)}
              onChange={() => setChanged(line)}
              act={act}
            />
          ))}
        </tbody>
      </table>
      {changed && programme ? (
        <DeliveryDialog
          title={`Change the delivery for ${changed.spec.name}`}
          action="Change the row"
          programmes={[programme]}
          receivers={receivers}
          initial={askedOf(changed)}
          onClose={() => setChanged(undefined)}
          onDone={(wanted) => {
            const { id } = changed;
            setChanged(undefined);
            act(() => changeRow(id, wanted));
          }}
        />
      ) : null}
    </Card>
  );
}

/** What a row asks for, to be changed. */
function askedOf({ spec, format, way, receiver }: LineView): WhatToDeliver {
  return { specId: spec.id, format, way, receiverId: receiver?.id ?? null };
}

function Row({
  line,
  failure,
  template,
  withTitle,
  isTicked,
  onTick,
  onChange,
  act,
}: {
  line: LineView;
  failure: { happened: string; todo: string } | undefined;
  template: string;
  withTitle: boolean;
  isTicked: boolean;
  onTick: (isOn: boolean) => void;
  onChange: () => void;
  act: Act;
}) {
  const { spec, delivery, prediction, problem, way } = line;
  const standing = standingOf(line);
  const written = delivery?.written ?? null;
  const readings = written?.readings ?? delivery?.predicted ?? prediction?.readings;
  const reduction = written ? written.reduction : (prediction?.reduction ?? null);
  const name = delivery?.fileName ?? `${fileStem(template, line.nameFields)}.${line.extension}`;
  const isFixed = standing === 'under-way';
  return (
    <>
      <tr data-standing={standing} className="border-t border-hair align-top first:border-0">
        <td className="py-3 pl-4">
          <input
            type="checkbox"
            aria-label={`Write ${name}`}
            checked={isTicked && !isFixed && !problem}
            disabled={isFixed || problem !== null}
            onChange={(event) => onTick(event.target.checked)}
            className="mt-0.5 size-4 accent-(--color-action)"
          />
        </td>
        <td className="py-2.5 pr-3">
          {withTitle ? <span className="block truncate text-xs text-mute">{line.title}</span> : null}
          <span className="block text-sm font-bold">{spec.name}</span>
          <span className="block text-xs text-mute">
            {describeWay(way)}
            {way.kind === 'solved' && way.marginDb > 0
              ? `, aimed ${formatNumber(way.marginDb)} dB below the ceiling`
              : ''}
            {line.keep ? ' · a span of it' : ''}
          </span>
        </td>
        <td className="max-w-64 py-2.5 pr-3">
          <span className="block truncate text-sm">{line.formatText}</span>
          <span className="block truncate text-xs text-mute" title={name}>
            {name}
          </span>
          {line.receiver ? <span className="block truncate text-xs text-mute">to {line.receiver.name}</span> : null}
          {written ? <FileFacts delivery={delivery as DeliveryView} /> : null}
        </td>
        <td className="py-2 pl-2">{readings ? <MiniRule readings={readings} spec={spec} labelled /> : null}</td>
        <td className="py-2.5 pl-3 font-mono text-sm whitespace-nowrap">
          {!readings ? '' : reduction ? `${formatNumber(reduction.greatestDb)} dB` : 'none'}
        </td>
        <td className="py-2.5 font-mono text-xs">
          {readings ? (
            <Landed predicted={delivery?.predicted ?? readings} measured={written?.readings} spec={spec} />
          ) : null}
        </td>
        <td className="py-2.5 font-mono text-sm whitespace-nowrap">
          {delivery?.written
            ? formatBytes(delivery.written.sizeBytes)
            : prediction
              ? `${prediction.size.isExact ? '' : '≈ '}${formatBytes(prediction.size.bytes)}`
              : ''}
        </td>
        <td className="py-2 pr-3">
          <div className="flex flex-wrap items-center justify-end gap-1.5">
            <span className="mr-auto">
              {line.sending?.state === 'accepted' ? (
                <StatePill state="inside">accepted</StatePill>
              ) : (
                <State line={line} failure={failure} act={act} />
              )}
            </span>
            {written ? (
              <>
                <Downloads delivery={delivery as DeliveryView} />
                <CertificateLinks delivery={delivery as DeliveryView} />
              </>
            ) : null}
            {isFixed ? null : (
              <>
                <Button kind="quiet" aria-label={`Change the row of ${name}`} title="Change" onClick={onChange}>
                  <Pencil size={15} aria-hidden />
                </Button>
                <Button
                  kind="quiet"
                  aria-label={`Take ${name} off the sheet`}
                  title="Take off the sheet; what was written stays"
                  onClick={() => act(() => removeRow(line.id))}
                >
                  <X size={16} aria-hidden />
                </Button>
              </>
            )}
          </div>
          <SendingState line={line} act={act} />
        </td>
      </tr>
      {standing === 'missed' ? (
        <tr>
          <td colSpan={COLUMNS} className="px-4 pb-3">
            <Decide delivery={delivery as DeliveryView} spec={spec} format={line.settled} act={act} />
          </td>
        </tr>
      ) : null}
      {problem && standing === 'planned' ? (
        <tr>
          <td colSpan={COLUMNS} className="px-4 pb-3">
            <div className="flex flex-wrap items-center gap-3 rounded-control bg-breach-1 px-3 py-2 text-sm">
              <span className="grow">
                <StateMark state="over" /> {problem.text}
              </span>
              <Button onClick={() => act(() => changeRow(line.id, { ...askedOf(line), format: problem.nearest }))}>
                Write it {problem.nearestText}
              </Button>
            </div>
          </td>
        </tr>
      ) : null}
    </>
  );
}

function State({
  line,
  failure,
  act,
}: {
  line: LineView;
  failure: { happened: string; todo: string } | undefined;
  act: Act;
}) {
  const { delivery, prediction, problem } = line;
  const standing = standingOf(line);
  switch (standing) {
    case 'planned':
      if (problem) return <StatePill state="over">can not be</StatePill>;
      if (failure) {
        return (
          <span role="alert" className="text-sm text-breach">
            ▲ {failure.happened} {failure.todo}
          </span>
        );
      }
      if (!prediction) return <span className="text-sm text-mute">◌ predicting …</span>;
      return <Predicted line={line} />;
    case 'under-way':
    case 'ended':
      return (
        <TaskState
          task={delivery?.task ?? null}
          verb="writing"
          onCancel={cancelTask}
          onRetry={() => {
            const task = delivery?.task;
            if (task) act(() => retryTask(task.taskId));
          }}
        />
      );
    case 'verified':
      return <StatePill state="inside">verified</StatePill>;
    case 'stale':
      return (
        <span className="flex flex-col items-start gap-1">
          <StatePill state={delivery?.written?.verdict.inside ? 'inside' : 'over'}>
            written as it was set then
          </StatePill>
          <span className="text-xs text-mute">○ set differently since: tick it to write it again</span>
        </span>
      );
    case 'accepted':
      return (
        <span className="flex flex-col items-start gap-1">
          <StatePill state="advice">accepted</StatePill>
          <span className="text-xs text-mute">“{delivery?.acceptedReason}”</span>
        </span>
      );
    case 'missed':
      return <Phrases delivery={delivery as DeliveryView} />;
  }
}

function Predicted({ line: { prediction, spec } }: { line: LineView }) {
  if (!prediction) return null;
  const { verdict, readings, stop } = prediction;
  if (verdict.inside) {
    return (
      <span className="flex flex-col items-start gap-1">
        <span className="rounded-full border border-hair px-3 py-1 text-sm font-semibold">
          predicted <StateMark state="inside" />
        </span>
        {stop && stop.shortfallLu >= 0.05 ? (
          <span className="text-xs text-mute">
            {limitName(stop.binding)} stops it {formatNumber(stop.shortfallLu)} LU short
          </span>
        ) : null}
      </span>
    );
  }
  return (
    <ul aria-label="Predicted" className="flex flex-col gap-1">
      {verdictPhrases(verdict, readings, spec)
        .filter(({ state }) => state !== 'inside')
        .slice(0, 3)
        .map(({ state, text }) => (
          <li key={text} className="text-sm">
            <StateMark state={state} /> {text}
          </li>
        ))}
    </ul>
  );
}

function Phrases({ delivery: { written, spec } }: { delivery: DeliveryView }) {
  if (!written) return null;
  return (
    <span className="flex flex-wrap gap-1">
      {verdictPhrases(written.verdict, written.readings, spec)
        .filter(({ state }) => state !== 'inside')
        .slice(0, 2)
        .map(({ state, text }) => (
          <StatePill key={text} state={state}>
            {text}
          </StatePill>
        ))}
    </span>
  );
}

/** Predicted beside measured, to a hundredth. */
function Landed({ predicted, measured, spec }: { predicted: Readings; measured: Readings | undefined; spec: Spec }) {
  const unit = spec.loudness?.measure === 'rms' ? 'dBFS' : 'LUFS';
  const rows = [
    ['loudness', specLoudness(predicted, spec), measured && specLoudness(measured, spec), unit],
    ['peak', specPeak(predicted, spec), measured && specPeak(measured, spec), peakUnit(spec)],
  ] as const;
  const text = (level: number | null | undefined) =>
    level === undefined ? '…' : level === null ? '◌' : formatNumber(level, 2);
  return rows.map(([name, from, to, of]) => (
    <span key={name} className="block leading-5 whitespace-nowrap text-mute">
      {text(from)} → <strong className="text-ink">{text(to)}</strong> {of}
    </span>
  ));
}

/** What is known of the bytes, and how often it took to land there. */
function FileFacts({ delivery: { files, passes, treatment } }: { delivery: DeliveryView }) {
  const [first] = files;
  const ceilingDbtp = treatment.limit?.ceilingDbtp;
  return (
    <>
      <span
        className="block truncate font-mono text-[11px] text-mute"
        title={files.map(({ fileName, sha256 }) => `${fileName} SHA-256 ${sha256}`).join('\n')}
      >
        sha256 {first?.sha256.slice(0, 16)}…{files.length > 1 ? ` and ${files.length - 1} more` : ''}
      </span>
      {passes.length > 1 ? (
        <span className="block text-[11px] text-mute">
          written {passes.length} times
          {ceilingDbtp === undefined ? '' : `: ceiling brought to ${formatLevel(ceilingDbtp, 'dBTP')}`}
        </span>
      ) : null}
    </>
  );
}

/** The certificate, to be read and to be checked by. */
function CertificateLinks({ delivery: { id, fileName } }: { delivery: DeliveryView }) {
  return (
    <>
      <ButtonLink
        href={`/api/deliveries/${id}/certificate`}
        download
        aria-label={`Certificate of ${fileName}`}
        title="Certificate, PDF"
      >
        <FileCheck size={16} aria-hidden />
      </ButtonLink>
      <ButtonLink
        kind="inline"
        href={`/api/deliveries/${id}/certificate?as=json`}
        download
        aria-label={`Certificate of ${fileName} as JSON`}
      >
        JSON
      </ButtonLink>
    </>
  );
}

function Downloads({ delivery: { id, files, written, fileName } }: { delivery: DeliveryView }) {
  const warning = written && verdictState(written.verdict) !== 'inside' ? ', which misses its spec' : '';
  if (files.length <= 1) {
    return (
      <ButtonLink
        href={`/api/deliveries/${id}/file`}
        download={fileName}
        aria-label={`Download ${fileName}${warning}`}
        title="Download"
      >
        <Download size={16} aria-hidden />
      </ButtonLink>
    );
  }
  return (
    <span className="flex flex-wrap gap-1">
      {files.map((file, part) => (
        <ButtonLink
          key={file.fileName}
          href={`/api/deliveries/${id}/file?part=${part}`}
          download={file.fileName}
          aria-label={`Download ${file.fileName}${warning}`}
        >
          {file.channel ?? `${part + 1}`}
        </ButtonLink>
      ))}
    </span>
  );
}
