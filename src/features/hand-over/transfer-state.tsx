'use client';

import { Popover } from 'radix-ui';
import { useLiveTask } from '@/features/common/data/live-tasks';
import { StateMark, StatePill } from '@/features/common/state-mark';
import { cancelTask } from '@/features/common/task-actions';
import type { Act } from '@/features/common/use-act';
import type { RowView } from '@/server/deliveries/sheet';
import type { TransferView } from '@/server/receivers/transfer-view';
import { Button } from '@/ui/button';
import { ProgressBar } from '@/ui/progress-bar';
import { sendFile } from './actions';
import { transferStateMessages as messages } from './messages';
import { standingOf } from './standing';

/** A written file on its way to its receiver: how far it is, what was answered, and what happened on the way. */
export function TransferState({ row, act }: { row: RowView; act: Act }) {
  const { delivery, receiver, transfer } = row;
  const live = useLiveTask(transfer?.task ?? null);
  const standing = standingOf(row);
  if (!delivery?.written || !receiver) return null;
  const send = (label: string) => (
    <Button onClick={() => act(() => sendFile(delivery.id, receiver.id))}>{label}</Button>
  );
  if (!transfer) {
    // What misses is sent once it has been accepted, and what was set differently since is written anew first.
    return standing === 'verified' || standing === 'accepted' ? (
      <span className="mt-1 block">{send(messages.sendTo(receiver.name))}</span>
    ) : null;
  }
  return (
    <span className="mt-1 flex flex-col items-start gap-1">
      {transfer.state === 'refused' ? (
        <>
          <StatePill state="over">{messages.refused}</StatePill>
          <ul className="text-xs text-breach">
            {transfer.reasons.map((reason) => (
              <li key={reason}>{reason}</li>
            ))}
          </ul>
          {send(messages.sendAgain)}
        </>
      ) : null}
      {transfer.state === 'open' || transfer.state === 'checking' ? (
        <Underway transfer={transfer} live={live} send={send} />
      ) : null}
      <span className="text-xs text-mute">
        {transfer.state === 'accepted' || transfer.state === 'refused' ? messages.by(receiver.name) : ''}
        <Log transfer={transfer} />
      </span>
    </span>
  );
}

function Underway({
  transfer,
  live,
  send,
}: {
  transfer: TransferView;
  live: ReturnType<typeof useLiveTask>;
  send: (label: string) => React.ReactNode;
}) {
  if (live?.state === 'failed' || live?.state === 'cancelled') {
    return (
      <>
        <span className="text-sm text-mute" role={live.state === 'failed' ? 'alert' : undefined}>
          {live.state === 'failed' && live.error ? (
            <span className="text-breach">
              <StateMark state="over" /> {live.error.happened} {live.error.todo}
            </span>
          ) : (
            messages.transferCancelled
          )}
        </span>
        {send(messages.tryAgain)}
      </>
    );
  }
  const cancel = live ? <Button onClick={() => cancelTask(live.taskId)}>{messages.cancel}</Button> : null;
  if (transfer.state === 'checking') {
    return (
      <span className="flex items-center gap-2 text-xs text-mute">
        {messages.isCheckingIt(transfer.receiverName)} {cancel}
      </span>
    );
  }
  return (
    <span className="flex items-center gap-2">
      <span className="w-28">
        <ProgressBar label={messages.sending} fraction={live?.fraction ?? 0} />
        <span className="mt-1 block font-mono text-xs text-mute">
          {transfer.failedTries > 0 ? messages.triedWaits(transfer.failedTries) : messages.sending}
        </span>
      </span>
      {cancel}
    </span>
  );
}

function Log({ transfer: { receiverName, log } }: { transfer: TransferView }) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label={messages.deliveryLogOf(receiverName)}
          className="cursor-pointer rounded-control underline decoration-dotted underline-offset-2 hover:text-ink"
        >
          {messages.deliveryLog}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={messages.deliveryLogOf(receiverName)}
          align="end"
          sideOffset={6}
          className="z-20 max-h-80 w-96 overflow-y-auto rounded-card border border-hair bg-sheet p-4 text-sm shadow-lg"
        >
          <ol className="flex flex-col gap-1">
            {log.map(({ atMs, text }, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: lines are only ever added at the end.
              <li key={i} className="flex gap-3">
                <time
                  dateTime={new Date(atMs).toISOString()}
                  className="shrink-0 font-mono text-xs leading-5 text-mute"
                >
                  {new Date(atMs).toLocaleTimeString('en-GB')}
                </time>
                <span>{text}</span>
              </li>
            ))}
          </ol>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
