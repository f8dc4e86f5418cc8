'use client';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { formatLevel, formatNumber, formatSampleRate, formatTime } from '@/core/units/format';
import { recordOf } from '@/features/common/data/fetch-json';
import { ErrorNotice } from '@/features/common/error-notice';
import { StateMark } from '@/features/common/state-mark';
import type { Act } from '@/features/common/use-act';
import type { ReplacementView } from '@/server/jobs/replace';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { Dialog } from '@/ui/dialog';
import { replaceProgramme } from './actions';
import { replaceMessages as messages } from './messages';
import { replacementQuery, replacementsQuery } from './queries';
import type { Replaced } from './replaced-notice';

/** Has a new version take the place of a programme, once it is seen what is different and what no longer fits. */
export function ReplaceProgramme({
  jobId,
  programme: { id, title },
  act,
  onReplaced,
  onClose,
}: {
  jobId: string;
  programme: { id: string; title: string };
  act: Act;
  onReplaced: (replaced: Replaced) => void;
  onClose: () => void;
}) {
  const [byId, setById] = useState<string | null>(null);
  const { data: candidates } = useQuery(replacementsQuery(jobId, id));
  const { data: view, error } = useQuery(replacementQuery(id, byId));
  return (
    <Dialog
      title={messages.title(title)}
      description={messages.description}
      isOpen
      onOpenChange={(isOpen) => !isOpen && onClose()}
    >
      {candidates?.length === 0 ? (
        <p className="text-sm">{messages.noOther}</p>
      ) : (
        <Choice
          label={messages.newVersion}
          placeholder={messages.choose}
          value={byId ?? ''}
          options={(candidates ?? []).map(({ id: value, title: label }) => ({ value, label }))}
          onChange={setById}
        />
      )}
      <ErrorNotice error={error ? recordOf(error) : undefined} />
      {view ? <Differences view={view} /> : null}
      <footer className="flex justify-end gap-2">
        <Button onClick={onClose}>{messages.cancel}</Button>
        <Button
          kind="primary"
          disabled={!view || byId === null}
          onClick={() =>
            byId !== null &&
            void act(
              () => replaceProgramme(id, byId),
              (settings) => {
                onReplaced({ programmeId: id, byId, title, settings });
                onClose();
              },
            )
          }
        >
          {messages.replace}
        </Button>
      </footer>
    </Dialog>
  );
}

function Differences({ view: { before, after, misfits } }: { view: ReplacementView }) {
  const rows: [name: string, value: (own: ReplacementView['before']) => string, change: string][] = [
    [messages.file, ({ fileName }) => fileName, ''],
    [messages.format, ({ format }) => [formatSampleRate(format.sampleRateHz), format.layout].join(' · '), ''],
    [
      messages.length,
      ({ format }) => formatTime(format.durationSeconds, { milliseconds: true }),
      difference(before.format.durationSeconds, after.format.durationSeconds, 's', 3),
    ],
    [
      messages.integrated,
      ({ levels }) => formatLevel(levels.integratedLufs, 'LUFS'),
      difference(before.levels.integratedLufs, after.levels.integratedLufs, 'LU', 1),
    ],
    [
      messages.truePeak,
      ({ levels }) => formatLevel(levels.truePeakDbtp, 'dBTP'),
      difference(before.levels.truePeakDbtp, after.levels.truePeakDbtp, 'dB', 1),
    ],
  ];
  return (
    <>
      <table className="w-full border-collapse text-left text-sm">
        <thead className="text-xs text-mute">
          <tr className="border-b border-hair">
            <td />
            <th scope="col" className="py-1 pr-4 font-normal">
              {messages.now}
            </th>
            <th scope="col" className="py-1 pr-4 font-normal">
              {messages.newVersion}
            </th>
            <th scope="col" className="py-1 font-normal">
              {messages.difference}
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, value, change]) => (
            <tr key={name} className="border-b border-hair last:border-b-0">
              <th scope="row" className="py-1 pr-4 font-normal text-mute">
                {name}
              </th>
              <td className="py-1 pr-4 font-mono text-[13px] break-all">{value(before)}</td>
              <td className="py-1 pr-4 font-mono text-[13px] break-all">{value(after)}</td>
              <td className="py-1 font-mono text-[13px] whitespace-nowrap">{change}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {misfits.length > 0 ? (
        <section>
          <h3 className="text-sm font-bold">{messages.misfits}</h3>
          <ul className="max-h-40 overflow-y-auto text-sm">
            {misfits.map(({ text, misfit }, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: two places may say the same.
              <li key={i} className="flex gap-1.5">
                <StateMark state="advice" />
                {messages.misfit[misfit](text)}
              </li>
            ))}
          </ul>
        </section>
      ) : (
        <p className="text-sm text-mute">{messages.allFits}</p>
      )}
    </>
  );
}

function difference(before: number | null, after: number | null, unit: string, digits: number): string {
  if (before === null || after === null) return '';
  const by = after - before;
  return Math.abs(by) < 0.5 * 10 ** -digits ? messages.same : `${formatNumber(by, digits, { plus: true })} ${unit}`;
}
