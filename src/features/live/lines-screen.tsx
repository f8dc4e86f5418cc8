'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { formatNumber } from '@/core/units/format';
import { lineAddress } from '@/features/common/address';
import { ErrorNotice } from '@/features/common/error-notice';
import { GaugeRule } from '@/features/common/gauge/gauge-rule';
import { integratedState, peakState } from '@/features/common/gauge/live-states';
import { StateMark } from '@/features/common/state-mark';
import { TopBar } from '@/features/common/top-bar';
import { type Act, useAct } from '@/features/common/use-act';
import type { LiveLineView } from '@/server/lines/views';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { WorkLink } from '@/ui/work-link';
import { control, newLine } from './actions';
import { LateButton } from './late-button';
import { LineForm } from './line-form';
import { LineStatePill, RecordingPill } from './line-state';
import type { LineStore } from './line-store';
import {
  lineFormMessages,
  lineReadingsMessages,
  lineScreenMessages,
  linesScreenMessages as messages,
} from './messages';
import { useLine, useLineStores } from './use-lines';

/** Every line at a glance: whether it sounds, what it reads, and what is wrong with it now. */
export function LinesScreen({
  lines,
  jobs,
}: {
  lines: readonly LiveLineView[];
  jobs: readonly { id: string; name: string }[];
}) {
  const stores = useLineStores(lines);
  const router = useRouter();
  const { act, error, clearError } = useAct(() => router.refresh());
  const [isAdding, setIsAdding] = useState(false);
  const whyNoLine = jobs.length === 0 ? messages.jobFirst : null;
  return (
    <div className="flex h-full flex-col">
      <TopBar current="live" />
      <main className="flex min-h-0 grow flex-col gap-3 overflow-y-auto p-4">
        <header className="flex items-center justify-between gap-4">
          <div>
            <h1 className="text-xl font-bold">{messages.title}</h1>
            <p className="text-sm text-mute">{messages.summary}</p>
          </div>
          <Button kind={lines.length === 0 ? 'primary' : 'plain'} whyNot={whyNoLine} onClick={() => setIsAdding(true)}>
            {messages.add}
          </Button>
        </header>
        <ErrorNotice error={error} onClose={clearError} />
        {lines.length === 0 ? <p className="text-sm text-mute">{whyNoLine ?? messages.none}</p> : null}
        <ul className="grid gap-3 xl:grid-cols-2">
          {lines.map((line) => (
            <li key={line.id}>
              <LineCard line={line} store={stores.get(line.id) as LineStore} act={act} />
            </li>
          ))}
        </ul>
      </main>
      {isAdding ? (
        <LineForm
          title={lineFormMessages.addTitle}
          action={lineFormMessages.add}
          initial={{ name: '', input: { kind: 'stream', address: '' }, jobId: jobs[0]?.id ?? '', specId: null }}
          jobs={jobs}
          onClose={() => setIsAdding(false)}
          save={(fields) => newLine({ ...fields, plannedSeconds: null })}
          onSaved={(lineId) => router.push(lineAddress(lineId))}
        />
      ) : null}
    </div>
  );
}

function LineCard({ line: { id, name, spec }, store, act }: { line: LiveLineView; store: LineStore; act: Act }) {
  const { live, readings } = useLine(store);
  const isOff = live.state === 'off';
  const level = (own: number | null) => (own === null ? '◌' : formatNumber(own));
  const states = [integratedState(readings, spec), peakState(readings, spec)];
  return (
    <Card className="flex flex-col gap-2">
      <header className="flex items-center justify-between gap-3">
        <WorkLink
          href={lineAddress(id)}
          aria-label={messages.open(name)}
          className="truncate font-bold hover:underline"
        >
          {name}
        </WorkLink>
        <span className="flex items-center gap-2">
          <RecordingPill live={live} />
          <LineStatePill live={live} />
          <LateButton
            key={String(isOff)}
            kind="quiet"
            aria-label={`${isOff ? lineScreenMessages.turnOn : lineScreenMessages.turnOff} ${name}`}
            onClick={() => void act(() => control(id, { do: isOff ? 'turn-on' : 'turn-off' }))}
          >
            {isOff ? lineScreenMessages.turnOn : lineScreenMessages.turnOff}
          </LateButton>
        </span>
      </header>
      <div className="flex gap-3">
        <div className="flex h-33 min-w-0 grow">
          <GaugeRule source={store} spec={spec} channelLabels={live.format?.channelLabels ?? NO_LABELS} />
        </div>
        <dl className="grid w-28 shrink-0 grid-cols-[auto_1fr_1rem] content-center items-baseline gap-x-2 gap-y-1 [&>dt]:text-xs [&>dt]:text-mute">
          {(
            [
              ['M', readings.momentaryLufs, null],
              ['S', readings.shortTermLufs, null],
              ['I', readings.integratedLufs, states[0]],
              ['TP', readings.truePeakDbtp, states[1]],
            ] as const
          ).map(([own, value, state]) => (
            <Reading key={own} name={own} value={level(value)} state={state ?? null} />
          ))}
        </dl>
      </div>
      <p role="status" className="h-5 truncate text-[13px] text-breach">
        {live.open.map(({ words }) => words).join(' · ')}
      </p>
    </Card>
  );
}

const NO_LABELS: readonly string[] = [];

const NAMES = {
  M: lineReadingsMessages.momentary,
  S: lineReadingsMessages.shortTerm,
  I: lineReadingsMessages.integrated,
  TP: lineReadingsMessages.truePeak,
} as const;

function Reading({
  name,
  value,
  state,
}: {
  name: keyof typeof NAMES;
  value: string;
  state: ReturnType<typeof integratedState>;
}) {
  return (
    <>
      <dt>
        <abbr title={NAMES[name]} className="no-underline">
          {name}
        </abbr>
      </dt>
      <dd className="text-right font-mono font-bold">{value}</dd>
      <dd className="text-xs">{state ? <StateMark state={state} /> : null}</dd>
    </>
  );
}
