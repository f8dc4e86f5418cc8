'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { receiversAddress, stageAddress } from '@/features/common/address';
import { useSharedChanges } from '@/features/common/data/use-shared-changes';
import { ErrorNotice } from '@/features/common/error-notice';
import { SideList, type SideListItem } from '@/features/common/side-list';
import { type MarkState, StateMark } from '@/features/common/state-mark';
import { TopBar } from '@/features/common/top-bar';
import { useAct } from '@/features/common/use-act';
import type { IntakeView } from '@/server/intake/intakes';
import type { ReceiverView } from '@/server/receivers/receivers';
import type { SentView } from '@/server/receivers/transfer-view';
import type { TransportForm } from '@/server/receivers/transport';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { Segments, Switch } from '@/ui/segments';
import { WorkLink } from '@/ui/work-link';
import { conductIntake, forgetReceiver, keepReceiver, newReceiver } from './actions';
import { receiversScreenMessages as messages } from './messages';
import { ReceiverForm } from './receiver-form';

const DELAYS_SECONDS = [0, 3, 10, 60];
const DROPS = [0, 1, 3, -1];

const NEW = { name: '', kind: 'web-hook', address: '', secret: '' } as const;

const SENT: Readonly<Record<SentView['state'], { state: MarkState; words: string }>> = {
  open: { state: 'advice', words: 'transferring' },
  checking: { state: 'advice', words: messages.beingChecked },
  accepted: { state: 'inside', words: 'accepted' },
  refused: { state: 'over', words: 'refused' },
};

/** Where deliveries go: the simulated intakes of this app, and receivers of one's own; what each takes, and what it was sent. */
export function ReceiversScreen({
  receivers,
  transports,
  current,
  intake,
  sent,
}: {
  receivers: readonly ReceiverView[];
  transports: readonly TransportForm[];
  current: ReceiverView;
  /** Of a simulated intake. */
  intake: IntakeView | null;
  sent: readonly SentView[];
}) {
  const router = useRouter();
  useSharedChanges();
  const { act, isBusy, error, clearError } = useAct(() => router.refresh());
  const [asking, setAsking] = useState<'new' | 'change'>();
  const { id, name, kind, address, hasSecret, isBuiltIn } = current;
  const transport = transports.find((own) => own.kind === kind);
  const isFolder = transport?.place === 'folder';
  return (
    <div className="flex h-full flex-col">
      <TopBar current="receivers" />
      <main className="mx-auto flex min-h-0 w-full max-w-[1400px] grow flex-col gap-3 overflow-y-auto p-4">
        <header className="flex items-center justify-between gap-4">
          <h1 className="text-xl font-bold">{messages.receivers}</h1>
          <Button onClick={() => setAsking('new')}>{messages.addAReceiver}</Button>
        </header>
        <ErrorNotice error={error} onClose={clearError} />
        <div className="grid items-start gap-3 lg:grid-cols-[17rem_1fr]">
          <SideList
            label={messages.receivers}
            currentId={id}
            groups={[
              { title: messages.simulated, items: receivers.filter((own) => own.isBuiltIn).map(sideItem) },
              { title: messages.yourOwn, items: receivers.filter((own) => !own.isBuiltIn).map(sideItem) },
            ]}
          />
          <div className="flex flex-col gap-3">
            <Card className="flex flex-col gap-3">
              <header className="flex flex-wrap items-start justify-between gap-3">
                <div className="min-w-0">
                  <h2 className="text-lg font-bold">{name}</h2>
                  <p className="text-sm text-mute">{transport?.words}</p>
                </div>
                {isBuiltIn ? null : (
                  <span className="flex gap-2">
                    <Button onClick={() => setAsking('change')}>{messages.edit}</Button>
                    <Button
                      disabled={isBusy}
                      onClick={() =>
                        act(
                          () => forgetReceiver(id),
                          () => router.push('/receivers'),
                        )
                      }
                    >
                      {messages.delete}
                    </Button>
                  </span>
                )}
              </header>
              <dl className="grid grid-cols-[8rem_1fr] gap-y-1 text-sm [&>dt]:text-mute">
                <dt>{isFolder ? messages.folder : messages.address}</dt>
                <dd className="font-mono break-all">{address}</dd>
                <dt>{messages.secret}</dt>
                <dd>{hasSecret ? messages.savedNeverShown : messages.noSecret}</dd>
                {intake ? (
                  <>
                    <dt>{messages.accepts}</dt>
                    <dd>
                      <ul>
                        {intake.rules.map((rule) => (
                          <li key={rule}>{rule}</li>
                        ))}
                      </ul>
                    </dd>
                  </>
                ) : null}
              </dl>
            </Card>
            {intake ? (
              <Conduct
                isFolder={isFolder}
                conduct={intake.conduct}
                isBusy={isBusy}
                onChange={(conduct) => act(() => conductIntake(id, conduct))}
              />
            ) : null}
            <SentTable sent={sent} />
          </div>
        </div>
      </main>
      {asking ? (
        <ReceiverForm
          key={asking}
          title={asking === 'new' ? messages.addAReceiver : messages.changeReceiver(name)}
          action={asking === 'new' ? messages.add : messages.save}
          transports={transports}
          initial={asking === 'new' ? NEW : { name, kind, address, secret: '' }}
          hasSecret={asking === 'change' && hasSecret}
          onClose={() => setAsking(undefined)}
          save={(receiver) =>
            asking === 'new' ? newReceiver(receiver) : keepReceiver(id, receiver, { name, kind, address })
          }
          onSaved={(receiverId) => {
            setAsking(undefined);
            router.push(receiversAddress(receiverId));
            router.refresh();
          }}
        />
      ) : null}
    </div>
  );
}

function sideItem({ id, name, transportName }: ReceiverView): SideListItem {
  return {
    id,
    href: receiversAddress(id),
    label: (
      <>
        {name}
        <span className="block text-xs font-normal text-mute">{transportName}</span>
      </>
    ),
  };
}

/** How a simulated intake behaves: what a real one does now and then can be tried here. */
function Conduct({
  isFolder,
  conduct,
  isBusy,
  onChange,
}: {
  isFolder: boolean;
  conduct: IntakeView['conduct'];
  isBusy: boolean;
  onChange: (conduct: IntakeView['conduct']) => void;
}) {
  const { delaySeconds, refusesAll, dropsLeft } = conduct;
  return (
    <Card title={messages.simulatedBehaviour} remark={messages.simulatedBehaviourHint}>
      <fieldset disabled={isBusy} className="grid grid-cols-[8rem_1fr] items-center gap-y-2 py-1 text-sm">
        <span className="text-mute">{messages.answersAfter}</span>
        <span>
          <Segments
            label={messages.answersAfter}
            value={String(delaySeconds)}
            options={DELAYS_SECONDS.map((seconds) => ({
              value: String(seconds),
              label: seconds === 0 ? messages.atOnce : `${seconds} s`,
            }))}
            onChange={(seconds) => onChange({ ...conduct, delaySeconds: Number(seconds) })}
          />
        </span>
        <span className="text-mute">{isFolder ? messages.folderIsMissing : messages.connectionDrops}</span>
        <span>
          <Segments
            label={isFolder ? messages.folderIsMissing : messages.connectionDrops}
            value={String(dropsLeft)}
            options={[...new Set([...DROPS, dropsLeft])].map((count) => ({
              value: String(count),
              label:
                count === 0
                  ? 'never'
                  : count < 0
                    ? 'always'
                    : isFolder
                      ? messages.forSeconds(count)
                      : messages.nextTimes(count),
            }))}
            onChange={(count) => onChange({ ...conduct, dropsLeft: Number(count) })}
          />
        </span>
        <span className="text-mute">{messages.answer}</span>
        <span>
          <Switch isOn={refusesAll} onChange={(isOn) => onChange({ ...conduct, refusesAll: isOn })}>
            {messages.refusesEverything}
          </Switch>
        </span>
      </fieldset>
    </Card>
  );
}

function SentTable({ sent }: { sent: readonly SentView[] }) {
  if (sent.length === 0) {
    return (
      <Card>
        <p className="py-1 text-sm text-mute">{messages.nothingSent}</p>
      </Card>
    );
  }
  return (
    <Card flush>
      <table aria-label={messages.transfers} className="w-full text-left text-sm">
        <thead className="text-xs text-mute">
          <tr className="border-b border-hair [&>th]:px-4 [&>th]:py-2 [&>th]:font-normal">
            <th>{messages.sent}</th>
            <th>{messages.file}</th>
            <th>{messages.answerColumn}</th>
          </tr>
        </thead>
        <tbody>
          {sent.map(({ id, fileName, jobId, programmeId, state, reasons, atMs }) => (
            <tr key={id} className="border-t border-hair align-top first:border-0 [&>td]:px-4 [&>td]:py-1.5">
              <td className="font-mono text-xs leading-5 whitespace-nowrap">{formatDay(atMs)}</td>
              <td>
                <WorkLink
                  href={stageAddress(jobId, 'hand-over', { programme: programmeId })}
                  className="hover:underline"
                >
                  {fileName}
                </WorkLink>
              </td>
              <td>
                <StateMark state={SENT[state].state} /> {SENT[state].words}
                {reasons.length > 0 ? <span className="block text-xs text-breach">{reasons.join('; ')}</span> : null}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Card>
  );
}

/** Day and time in UTC: server and browser write the same. */
function formatDay(atMs: number): string {
  return `${new Date(atMs).toISOString().slice(0, 16).replace('T', ' ')} UTC`;
}
