'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import type { Spec } from '@/core/spec/spec';
import { formatNumber, formatSampleRate } from '@/core/units/format';
import { ErrorNotice } from '@/features/common/error-notice';
import { GaugeRule } from '@/features/common/gauge/gauge-rule';
import { integratedState, peakState } from '@/features/common/gauge/live-states';
import { StatePill } from '@/features/common/state-mark';
import { TopBar } from '@/features/common/top-bar';
import { useAct } from '@/features/common/use-act';
import type { LineControl } from '@/server/http/line-operations';
import type { LiveLine } from '@/server/lines/live-lines';
import type { LiveLineView } from '@/server/lines/views';
import { Button, ButtonLink } from '@/ui/button';
import { Card } from '@/ui/card';
import { Popup } from '@/ui/popup';
import { WorkLink } from '@/ui/work-link';
import { control, forgetLine, keepLine } from './actions';
import { AlarmsForm } from './alarms-form';
import { DayStrip } from './day-strip';
import { InputRow } from './input/input-row';
import { LineControls } from './line-controls';
import { LineEvents } from './line-events';
import { LineForm } from './line-form';
import { LineReadings } from './line-readings';
import { LineStatePill, RecordingPill } from './line-state';
import type { LineStore } from './line-store';
import { LineTrace } from './line-trace';
import { dayStripMessages, lineFormMessages, lineScreenMessages as messages, recordingsMessages } from './messages';
import { Projection } from './projection';
import { Recordings } from './recordings';
import { SimulatedFaults } from './simulated-faults';
import { useAlarmSound } from './use-alarm-sound';
import { useLineKeys } from './use-line-keys';
import { useLine, useLineStores } from './use-lines';
import { useLog } from './use-log';

const DAY_SECONDS = 86_400;
const DAY_AGAIN_MS = 30_000;

/** One line: gauge, trace, readings, what happened, what is to come, and all that can be done with it. */
export function LineScreen({ line, jobs }: { line: LiveLineView; jobs: readonly { id: string; name: string }[] }) {
  const { id, name, spec, alarms, plannedSeconds, input } = line;
  const stores = useLineStores([line], id);
  const store = stores.get(id) as LineStore;
  const { live } = useLine(store);
  const router = useRouter();
  const { act, isBusy, error, clearError } = useAct(() => router.refresh());
  const [open, setOpen] = useState<'edit' | 'alarms'>();
  const { data: day = [] } = useLog(id, { seconds: DAY_SECONDS, stepSeconds: 60, againMs: DAY_AGAIN_MS });
  const nowMs = useNow(DAY_AGAIN_MS);
  useAlarmSound(store, alarms);
  const wish = (own: LineControl) => void act(() => control(id, own));
  useLineKeys(open === undefined, live, wish);
  const isOff = live.state === 'off';
  return (
    <div className="flex h-full flex-col">
      <TopBar current="live" />
      <main className="flex min-h-0 grow flex-col gap-2 overflow-y-auto p-3">
        <header className="flex flex-wrap items-center justify-between gap-x-4 gap-y-1">
          <h1 className="flex min-w-0 items-baseline gap-3 text-xl font-bold">
            <span className="truncate">{name}</span>
            <WorkLink href="/live" className="text-xs font-semibold whitespace-nowrap text-slide-ink hover:underline">
              {messages.allLines}
            </WorkLink>
          </h1>
          <div className="flex flex-wrap items-center gap-2">
            <RecordingPill live={live} />
            <LineStatePill live={live} />
            <Verdict store={store} spec={spec} />
            <LineControls live={live} isBusy={isBusy} onWish={wish} />
            <Button onClick={() => setOpen('alarms')}>{messages.alarms}</Button>
            <Button onClick={() => setOpen('edit')}>{messages.edit}</Button>
          </div>
        </header>
        <ErrorNotice
          error={error ?? (live.state === 'lost' ? (live.error ?? undefined) : undefined)}
          onClose={error ? clearError : undefined}
        />
        <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-1">
          <Facts line={line} live={live} />
          {input.kind === 'input' ? (
            <InputRow
              lineId={id}
              live={live}
              device={input.device}
              onDevice={(device) => void act(() => keepLine(id, { input: { kind: 'input', device } }, { input }))}
            />
          ) : null}
          {input.kind === 'simulated' ? (
            <SimulatedFaults
              faults={input.faults}
              onChange={(faults) => act(() => keepLine(id, { input: { kind: 'simulated', faults } }, {}))}
            />
          ) : null}
        </div>
        <Card className="flex min-h-40 grow-[2] flex-col">
          <GaugeRule source={store} spec={spec} channelLabels={live.format?.channelLabels ?? NO_LABELS} />
        </Card>
        <div className="flex min-h-72 grow-[5] gap-2 max-lg:shrink-0 max-lg:flex-col">
          <Card className="flex min-h-56 min-w-0 grow flex-col">
            <LineTrace lineId={id} store={store} spec={spec} day={day} />
          </Card>
          <Card className="flex shrink-0 flex-col gap-2 lg:w-92">
            <LineReadings store={store} spec={spec} />
            <LineEvents store={store} />
          </Card>
        </div>
        <div className="grid shrink-0 grid-cols-[minmax(0,1fr)] gap-2 lg:grid-cols-2">
          <Card dense>
            <Projection
              store={store}
              spec={spec}
              plannedSeconds={plannedSeconds}
              onPlanned={(seconds) => void act(() => keepLine(id, { plannedSeconds: seconds }, { plannedSeconds }))}
            />
          </Card>
          <Card dense>
            <div className="flex flex-wrap items-baseline justify-between gap-x-4 text-xs text-mute">
              <h2>{dayStripMessages.today}</h2>
              <span className="flex flex-wrap gap-x-3">
                <Popup name={recordingsMessages.recordings}>
                  <Recordings store={store} />
                </Popup>
                {nowMs === undefined ? null : (
                  <>
                    <ButtonLink
                      kind="inline"
                      download
                      href={dayAddress(id, nowMs, 'report', { as: 'pdf', ...inReadersTime(nowMs) })}
                    >
                      {dayStripMessages.report}
                    </ButtonLink>
                    <ButtonLink
                      kind="inline"
                      download
                      href={dayAddress(id, nowMs, 'report', { as: 'svg', ...inReadersTime(nowMs) })}
                    >
                      {dayStripMessages.picture}
                    </ButtonLink>
                    <ButtonLink kind="inline" download href={dayAddress(id, nowMs, 'log.csv')}>
                      {dayStripMessages.log}
                    </ButtonLink>
                  </>
                )}
              </span>
            </div>
            {nowMs === undefined ? <div className="h-6" /> : <DayStrip day={day} nowMs={nowMs} />}
          </Card>
        </div>
      </main>
      {open === 'edit' ? (
        <LineForm
          title={lineFormMessages.editTitle(name)}
          action={lineFormMessages.save}
          initial={line}
          jobs={jobs}
          whyNoDelete={isOff ? null : lineFormMessages.offFirst}
          onClose={() => setOpen(undefined)}
          save={(fields) => keepLine(id, fields, { name, input, jobId: line.jobId, specId: line.specId })}
          onSaved={() => {
            setOpen(undefined);
            router.refresh();
          }}
          onDelete={() =>
            void act(
              () => forgetLine(id),
              () => router.push('/live'),
            )
          }
        />
      ) : null}
      {open === 'alarms' ? (
        <AlarmsForm
          lineName={name}
          alarms={alarms}
          onClose={() => setOpen(undefined)}
          save={(own) => keepLine(id, { alarms: own }, { alarms })}
        />
      ) : null}
    </div>
  );
}

const NO_LABELS: readonly string[] = [];

/** How far the clocks of the reader are ahead of UTC, as it is asked for. */
function inReadersTime(nowMs: number): { utcOffsetMinutes: string } {
  return { utcOffsetMinutes: String(-new Date(nowMs).getTimezoneOffset()) };
}

/** What is made of the last 24 hours. */
function dayAddress(lineId: string, nowMs: number, what: string, asked: Record<string, string> = {}): string {
  const to = Math.ceil(nowMs / 1000);
  const query = new URLSearchParams({ ...asked, from: String(to - DAY_SECONDS), to: String(to) });
  return `/api/live/${lineId}/${what}?${query}`;
}

/** The time, again and again; undefined until the page is in the browser, where the time is that of the reader. */
function useNow(everyMs: number): number | undefined {
  const [nowMs, setNowMs] = useState<number>();
  useEffect(() => {
    setNowMs(Date.now());
    const timer = setInterval(() => setNowMs(Date.now()), everyMs);
    return () => clearInterval(timer);
  }, [everyMs]);
  return nowMs;
}

/** Where a line comes from and how it comes. */
function Facts({ line: { input, jobName, spec }, live: { format, transfer } }: { line: LiveLineView; live: LiveLine }) {
  const parts = [
    input.kind === 'stream' ? input.address : messages[input.kind],
    ...(format ? [`${format.layout}, ${formatSampleRate(format.sampleRateHz)}`] : []),
    ...(transfer ? [messages.framesLost(String(transfer.lostFrames))] : []),
    ...(transfer?.driftPpm != null ? [messages.clock(formatNumber(transfer.driftPpm, 0, { plus: true }))] : []),
    spec.name,
    messages.into(jobName),
  ];
  return <p className="truncate font-mono text-xs text-mute">{parts.join(' · ')}</p>;
}

/** How what was measured so far stands to the spec. */
function Verdict({ store, spec }: { store: LineStore; spec: Spec }) {
  const { readings } = useLine(store);
  const loudness = integratedState(readings, spec);
  const peak = peakState(readings, spec);
  return (
    <>
      {loudness && readings.integratedLufs !== null ? (
        <StatePill state={loudness}>{`${formatNumber(readings.integratedLufs)} LUFS`}</StatePill>
      ) : null}
      {peak && peak !== 'inside' && readings.truePeakDbtp !== null ? (
        <StatePill state={peak}>{`${formatNumber(readings.truePeakDbtp)} dBTP`}</StatePill>
      ) : null}
    </>
  );
}
