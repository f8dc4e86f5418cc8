'use client';

import { useQuery } from '@tanstack/react-query';
import { type ReactNode, useState } from 'react';
import type { BatchWish } from '@/core/batch/batch';
import type { DeliveryFormat } from '@/core/delivery/format';
import { formatNumber } from '@/core/units/format';
import type { BatchView } from '@/server/batches/batches';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { manyMessages as messages } from '../messages';
import { StatePill } from '../state-mark';
import { TaskState } from '../task-state';
import type { Act } from '../use-act';
import { askMany } from './actions';
import { batchesQuery, templatesQuery } from './queries';

/** What is asked here, and so answered here. */
const ASKED: readonly BatchWish['kind'][] = ['deliver', 'meet', 'review', 'template', 'steps'];
/** Of these, nothing is written. */
const SETTING: readonly BatchWish['kind'][] = ['meet', 'template', 'steps'];
const REDUCTIONS_DB = [0, 3, 6, 9, 12];

/** Has each of some programmes meet a spec by itself, and be written; and says of each that does not, why. */
export function Many({
  jobId,
  programmeIds: ids,
  specId,
  isOfSpeech,
  bookId = null,
  format = null,
  keepsLength = false,
  isBusy,
  act,
  children,
}: {
  jobId: string;
  programmeIds: readonly string[];
  specId: string;
  /** It begins with what a book needs: some limiting, and head and tail as the spec asks. */
  isOfSpeech: boolean;
  /** The book that they are chapters of. */
  bookId?: string | null;
  /** What is delivered; null for what the spec takes. */
  format?: DeliveryFormat | null;
  /** Nothing is added at head or tail, or cut there. */
  keepsLength?: boolean;
  isBusy: boolean;
  act: Act;
  /** What stands ahead of the choices. */
  children: ReactNode;
}) {
  const { data: batches = [] } = useQuery(batchesQuery(jobId));
  const { data: templates = [] } = useQuery(templatesQuery);
  const [maxReductionDb, setMaxReductionDb] = useState(isOfSpeech ? 6 : 0);
  const [fitsEdges, setFitsEdges] = useState(isOfSpeech);
  const newest = batches.find(
    ({ wish, items }) => ASKED.includes(wish.kind) && items.every(({ programmeId }) => ids.includes(programmeId)),
  );
  const isRunning = newest?.task?.state === 'queued' || newest?.task?.state === 'running';
  const asked = { specId, maxReductionDb, fitsEdges };
  const meet = () => act(() => askMany(jobId, ids, { kind: 'meet', ...asked }));
  const deliver = () => act(() => askMany(jobId, ids, { kind: 'deliver', ...asked, bookId, format }));
  return (
    <Card className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-3">
        {children}
        <Choice
          label={messages.limiting}
          value={String(maxReductionDb)}
          options={REDUCTIONS_DB.map((db) => ({
            value: String(db),
            label: db === 0 ? messages.noLimiter : messages.upTo(db),
          }))}
          onChange={(value) => setMaxReductionDb(Number(value))}
        />
        {keepsLength ? null : (
          <label className="flex items-center gap-2 text-sm" title={messages.fitsEdgesHint}>
            <input type="checkbox" checked={fitsEdges} onChange={(event) => setFitsEdges(event.target.checked)} />
            {messages.fitsEdges}
          </label>
        )}
        <Choice
          label={messages.applyTemplate}
          placeholder={messages.applyTemplate}
          value=""
          options={templates.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={(templateId) => void act(() => askMany(jobId, ids, { kind: 'template', templateId }))}
        />
        <span className="ml-auto flex gap-2">
          <Button
            title={messages.reviewHint}
            disabled={isBusy || isRunning}
            onClick={() => void act(() => askMany(jobId, ids, { kind: 'review', specId, maxReductionDb }))}
          >
            {messages.review(ids.length)}
          </Button>
          <Button title={messages.meetHint} disabled={isBusy || isRunning} onClick={() => void meet()}>
            {messages.meet}
          </Button>
          <Button
            kind="primary"
            title={messages.deliverHint}
            disabled={isBusy || isRunning}
            onClick={() => void deliver()}
          >
            {messages.deliver(ids.length)}
          </Button>
        </span>
      </div>
      {newest ? <Outcome batch={newest} /> : null}
    </Card>
  );
}

/** What has come of it, in numbers, and of each programme that does not meet its spec in words. */
function Outcome({ batch: { id, items, spreads, task, wish } }: { batch: BatchView }) {
  const verified = items.filter(({ delivery }) => delivery?.inside === true);
  const underWay = items.filter(({ delivery }) => delivery?.state === 'open');
  const missed = items.filter(
    ({ state, delivery }) => state === 'missed' || state === 'failed' || delivery?.inside === false,
  );
  const reviews = items.filter(({ file }) => file !== null);
  const set = SETTING.includes(wish.kind) ? items.filter(({ state }) => state === 'done') : [];
  return (
    <>
      {task && task.state !== 'done' ? <TaskState task={task} verb="working" /> : null}
      <div role="status" className="flex flex-wrap items-center gap-2">
        {verified.length > 0 ? <StatePill state="inside">{messages.verified(verified.length)}</StatePill> : null}
        {reviews.length > 0 ? (
          <>
            <StatePill state="advice">{messages.reviews(reviews.length)}</StatePill>
            <a className="text-sm underline" href={`/api/batches/${id}/zip`} download>
              {messages.download}
            </a>
          </>
        ) : null}
        {set.length > 0 ? <StatePill state="inside">{messages.set(set.length)}</StatePill> : null}
        {underWay.length > 0 ? <StatePill state="not-measured">{messages.underWay(underWay.length)}</StatePill> : null}
        {missed.length > 0 ? <StatePill state="over">{messages.missed(missed.length)}</StatePill> : null}
        {verified.length > 0 ? <span className="text-xs text-mute">{messages.onTheSheet}</span> : null}
      </div>
      {spreads.length > 0 ? (
        <dl aria-label={messages.alike} className="flex flex-wrap gap-x-6 gap-y-1 text-xs">
          {spreads.map(({ key, least, most, unit }) => (
            <div key={key} className="flex gap-2">
              <dt className="text-mute">{messages.spreadNames[key]}</dt>
              <dd className="font-mono">
                {messages.spread(
                  formatNumber(least, unit === 's' ? 2 : 1),
                  formatNumber(most, unit === 's' ? 2 : 1),
                  unit,
                )}
              </dd>
            </div>
          ))}
        </dl>
      ) : null}
      {missed.length > 0 ? (
        <ul aria-label={messages.notMet} className="grid gap-1 text-sm">
          {missed.map(({ programmeId, title, text }) => (
            <li key={programmeId}>
              <span className="font-semibold">{title}</span> <span className="text-breach">▲ {text}</span>
            </li>
          ))}
        </ul>
      ) : null}
    </>
  );
}
