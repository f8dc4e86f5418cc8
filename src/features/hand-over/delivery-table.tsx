'use client';

import { Download } from 'lucide-react';
import { specPeak } from '@/core/spec/verdict';
import { formatBytes, formatGain, formatLevel, formatNumber, formatSampleRate } from '@/core/units/format';
import { MiniRule } from '@/features/common/mini-rule';
import { StatePill } from '@/features/common/state-mark';
import { cancelTask, retryTask } from '@/features/common/task-actions';
import { TaskState } from '@/features/common/task-state';
import { verdictPhrases, verdictState } from '@/features/common/verdict-words';
import { describeSamples } from '@/formats/audio-format';
import type { DeliveryView } from '@/server/jobs/jobs';
import { ButtonLink } from '@/ui/button';
import { Card } from '@/ui/card';

/** The deliveries of a programme, newest first: what was asked, where it landed, and the file. */
export function DeliveryTable({ deliveries }: { deliveries: readonly DeliveryView[] }) {
  if (deliveries.length === 0) {
    return (
      <Card className="grid min-h-40 place-items-center text-center">
        <p className="max-w-md text-sm text-mute">
          Nothing has been written for this programme yet. Write a delivery above: it is measured again from the written
          file, and the source stays as it is.
        </p>
      </Card>
    );
  }
  return (
    <Card flush className="overflow-x-auto">
      <table className="w-full min-w-5xl border-collapse text-left">
        <thead className="text-xs text-mute">
          <tr className="border-b border-hair">
            <th className="py-2 pl-4 font-normal">Delivery</th>
            <th className="py-2 font-normal">File</th>
            <th className="w-64 py-2 font-normal">lands at · peak</th>
            <th className="py-2 pl-6 font-normal">predicted → measured</th>
            <th className="w-[26%] py-2 pr-4 pl-6 font-normal">State</th>
          </tr>
        </thead>
        <tbody>
          {deliveries.map((delivery) => (
            <DeliveryRow key={delivery.id} delivery={delivery} />
          ))}
        </tbody>
      </table>
    </Card>
  );
}

function DeliveryRow({ delivery }: { delivery: DeliveryView }) {
  const { spec, fileName, treatmentVersion, treatment, predicted, written, task } = delivery;
  return (
    <tr className="border-b border-hair align-top last:border-0">
      <td className="py-3 pr-4 pl-4">
        <span className="block text-sm font-bold">{spec.name}</span>
        <span className="text-xs text-mute">
          treatment v{treatmentVersion} · {formatGain(treatment.gainDb, 2)}
        </span>
        {treatment.limit ? (
          <span className="block text-xs text-mute">
            limiter at {formatLevel(treatment.limit.ceilingDbtp, 'dBTP')}
            {written?.reduction ? `, ${formatNumber(-written.reduction.greatestDb)} dB at most` : ''}
          </span>
        ) : null}
      </td>
      <td className="max-w-72 py-3 pr-4">
        <span className="block truncate text-sm" title={fileName}>
          {fileName}
        </span>
        <span className="block text-xs text-mute">
          {written
            ? `WAV ${describeSamples(written.format)} · ${formatSampleRate(written.format.sampleRateHz)} · ${written.format.layout} · ${formatBytes(written.sizeBytes)}`
            : 'WAV 24-bit'}
        </span>
        {written ? (
          <span className="block truncate font-mono text-[11px] text-mute" title={`SHA-256 ${written.sha256}`}>
            sha256 {written.sha256?.slice(0, 16)}…
          </span>
        ) : null}
      </td>
      <td className="py-3">
        <MiniRule readings={written?.readings ?? predicted} spec={spec} labelled />
      </td>
      <td className="py-3 pl-6 font-mono text-sm whitespace-nowrap">
        <Compared
          unit={spec.loudness?.measure === 'rms' ? 'dBFS' : 'LUFS'}
          predicted={spec.loudness?.measure === 'rms' ? predicted.rmsDbfs : predicted.integratedLufs}
          measured={
            written
              ? spec.loudness?.measure === 'rms'
                ? written.readings.rmsDbfs
                : written.readings.integratedLufs
              : undefined
          }
        />
        <Compared
          unit={spec.peak.measure === 'true' ? 'dBTP' : 'dBFS'}
          predicted={specPeak(predicted, spec)}
          measured={written ? specPeak(written.readings, spec) : undefined}
        />
      </td>
      <td className="py-3 pr-4 pl-6">
        {written ? (
          <div className="flex flex-wrap items-center justify-end gap-2">
            {written.verdict.inside ? (
              <StatePill state="inside">verified</StatePill>
            ) : (
              verdictPhrases(written.verdict, written.readings, spec)
                .filter(({ state }) => state !== 'inside')
                .map(({ state, text }) => (
                  <StatePill key={text} state={state}>
                    {text}
                  </StatePill>
                ))
            )}
            <ButtonLink
              href={`/api/deliveries/${delivery.id}/file`}
              download={fileName}
              aria-label={`Download ${fileName}${verdictState(written.verdict) === 'inside' ? '' : ', which misses its spec'}`}
            >
              <Download size={16} aria-hidden /> Download
            </ButtonLink>
          </div>
        ) : (
          <TaskState
            task={task}
            verb="writing"
            onCancel={cancelTask}
            onRetry={() => (task ? void retryTask(task.taskId) : undefined)}
          />
        )}
      </td>
    </tr>
  );
}

function Compared({
  unit,
  predicted,
  measured,
}: {
  unit: string;
  predicted: number | null;
  measured: number | null | undefined;
}) {
  const text = (level: number | null | undefined) =>
    level === undefined ? '…' : level === null ? '◌' : formatNumber(level, 2);
  return (
    <span className="block">
      <span className="text-mute">{text(predicted)} → </span>
      <strong>{text(measured)}</strong> <span className="text-xs text-mute">{unit}</span>
    </span>
  );
}
