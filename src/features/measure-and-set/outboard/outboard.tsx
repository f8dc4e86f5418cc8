'use client';

import { useEffect, useState, useSyncExternalStore } from 'react';
import { passProblems, passText } from '@/core/outboard/pass-words';
import { amplitudeToDb } from '@/core/units/decibel';
import { formatLevel, formatTime } from '@/core/units/format';
import { stageAddress } from '@/features/common/address';
import { type Device, useDevices } from '@/features/common/capture/inputs';
import { useChanged } from '@/features/common/data/use-changed';
import { TaskState } from '@/features/common/task-state';
import { useLeaveWarning } from '@/features/common/use-leave-warning';
import type { PassView } from '@/server/outboard/passes';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { Dialog } from '@/ui/dialog';
import { ProgressBar } from '@/ui/progress-bar';
import { TypedField } from '@/ui/typed-field';
import { WorkLink } from '@/ui/work-link';
import { useDesk } from '../desk/desk-context';
import { outboardMessages as messages } from './messages';
import { OutboardPass, type PassState, type SimulatedGear } from './outboard-pass';
import { type SentChoice, useSentChoices } from './use-sent-choices';

/** The usual device, and the simulated one, in lists whose entries all have a value. */
const USUAL = '-';
const SIMULATED = 'simulated';
const MOST_CHANNELS = 32;
const STORED = 'opsimeter-outboard';

/** A dialog that sends the programme through outboard gear in real time, and lists what came back. */
export function Outboard({ onClose }: { onClose: () => void }) {
  const { jobId, programme, audition } = useDesk();
  const [pass] = useState(() => new OutboardPass(programme.id));
  const state = useSyncExternalStore(pass.subscribe, pass.get, () => IDLE);
  const isUnderWay = state.kind === 'running' || state.kind === 'asking';
  useLeaveWarning(isUnderWay);
  useEffect(() => () => pass.stop(), [pass]);
  const [wanted, setWanted] = useState(keptWanted);
  const changed = useChanged();
  useEffect(() => {
    if (state.kind === 'done') void changed();
  }, [state.kind, changed]);
  return (
    <Dialog
      title={messages.title}
      description={messages.about}
      isOpen
      onOpenChange={(isOpen) => (isOpen || isUnderWay ? undefined : onClose())}
    >
      {isUnderWay ? (
        <UnderWay state={state} onStop={() => pass.stop()} />
      ) : (
        <>
          <Patching
            wanted={wanted}
            onWanted={(change) => setWanted({ ...wanted, ...change })}
            onStart={(...asked) => {
              if (audition.isPlaying) audition.toggle();
              void pass.start(...asked);
            }}
          />
          {state.kind === 'failed' ? (
            <p role="alert" className="text-sm text-breach">
              ▲ {messages.failed(state.reason)}
            </p>
          ) : null}
        </>
      )}
      {programme.passes.length > 0 ? (
        <ul aria-label={messages.passes} className="flex flex-col overflow-y-auto text-[13px]">
          {[...programme.passes].reverse().map((own) => (
            <PassRow key={own.id} jobId={jobId} pass={own} />
          ))}
        </ul>
      ) : null}
    </Dialog>
  );
}

const IDLE = { kind: 'idle' } as const;

/** What is asked for: kept on this machine, since gear stays where it is plugged in. */
interface Wanted {
  sentId: string;
  outputId: string;
  inputId: string;
  firstOutput: number;
  firstInput: number;
  gear: SimulatedGear;
}

const USUALLY: Wanted = {
  sentId: 'treated',
  outputId: USUAL,
  inputId: USUAL,
  firstOutput: 1,
  firstInput: 1,
  gear: { gainDb: -1, delayMs: 20, noiseDbfs: -90 },
};

function keptWanted(): Wanted {
  try {
    return { ...USUALLY, ...JSON.parse(localStorage.getItem(STORED) ?? '{}'), sentId: USUALLY.sentId };
  } catch {
    return USUALLY;
  }
}

/** What is sent, where to, and where it comes back. */
function Patching({
  wanted,
  onWanted,
  onStart,
}: {
  wanted: Wanted;
  onWanted: (change: Partial<Wanted>) => void;
  onStart: (...asked: Parameters<OutboardPass['start']>) => void;
}) {
  const choices = useSentChoices();
  const { sentId, firstOutput, firstInput, gear } = wanted;
  const outputs = useDevices('audiooutput', false);
  const inputs = useDevices('audioinput', false);
  // What was used last may be unplugged.
  const there = (id: string, devices: readonly Device[]) =>
    id === SIMULATED || devices.some(({ deviceId }) => deviceId === id) ? id : USUAL;
  const [outputId, inputId] = [there(wanted.outputId, outputs), there(wanted.inputId, inputs)];
  const sent: SentChoice | undefined = choices.find(({ id }) => id === sentId) ?? choices[0];
  if (!sent) return null;
  const { playable, fields } = sent;
  const isSimulated = inputId === SIMULATED;
  const named = (id: string) => (id === USUAL ? undefined : id);
  const start = () => {
    localStorage.setItem(STORED, JSON.stringify(wanted));
    onStart(playable, fields, {
      outputId: named(outputId),
      firstOutput: firstOutput - 1,
      back: isSimulated
        ? { kind: 'simulated', ...gear }
        : { kind: 'input', deviceId: named(inputId), firstInput: firstInput - 1 },
    });
  };
  const devices = (usual: string, own: readonly Device[]) => [
    { value: USUAL, label: usual },
    ...own.map(({ deviceId: value, label }) => ({ value, label })),
  ];
  return (
    <div className="grid grid-cols-[auto_1fr] items-center gap-x-4 gap-y-2.5 text-sm">
      <span className="text-mute">{messages.send}</span>
      <span>
        <Choice
          label={messages.send}
          value={sent.id}
          options={choices.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={(id) => onWanted({ sentId: id })}
        />
      </span>
      <span className="text-mute">{messages.output}</span>
      <span className="flex flex-wrap items-center gap-2">
        <Choice
          label={messages.output}
          value={outputId}
          options={devices(messages.usualOutput, outputs)}
          onChange={(id) => onWanted({ outputId: id })}
        />
        <ChannelField
          label={messages.firstOutput}
          value={firstOutput}
          onCommit={(first) => onWanted({ firstOutput: first })}
        />
      </span>
      <span className="text-mute">{messages.back}</span>
      <span className="flex flex-wrap items-center gap-2">
        <Choice
          label={messages.back}
          value={inputId}
          options={[...devices(messages.usualInput, inputs), { value: SIMULATED, label: messages.simulated }]}
          onChange={(id) => onWanted({ inputId: id })}
        />
        {isSimulated ? (
          <fieldset aria-label={messages.gear} className="flex flex-wrap items-center gap-2">
            <GearField
              label={messages.gain}
              range={[-60, 20]}
              value={gear.gainDb}
              onCommit={(gainDb) => onWanted({ gear: { ...gear, gainDb } })}
            />
            <GearField
              label={messages.delay}
              range={[0, 1500]}
              value={gear.delayMs}
              onCommit={(delayMs) => onWanted({ gear: { ...gear, delayMs } })}
            />
            <GearField
              label={messages.noise}
              range={[-140, -20]}
              value={gear.noiseDbfs}
              onCommit={(noiseDbfs) => onWanted({ gear: { ...gear, noiseDbfs } })}
            />
          </fieldset>
        ) : (
          <ChannelField
            label={messages.firstInput}
            value={firstInput}
            onCommit={(first) => onWanted({ firstInput: first })}
          />
        )}
      </span>
      <span />
      <span>
        <Button kind="primary" title={messages.startHint} onClick={start}>
          {messages.start(fields.frames / fields.sampleRateHz)}
        </Button>
      </span>
    </div>
  );
}

function ChannelField(props: { label: string; value: number; onCommit: (value: number) => void }) {
  return (
    <TypedField
      {...props}
      format={String}
      parse={(text) =>
        /^\d+$/.test(text) && Number(text) >= 1 && Number(text) <= MOST_CHANNELS ? Number(text) : undefined
      }
      className="w-10"
    />
  );
}

function GearField({
  range: [least, most],
  ...props
}: {
  label: string;
  range: readonly [number, number];
  value: number;
  onCommit: (value: number) => void;
}) {
  const parse = (text: string) => {
    const value = Number(text.replace('−', '-').replace(',', '.'));
    return text.trim() !== '' && value >= least && value <= most ? value : undefined;
  };
  return <TypedField {...props} format={(value) => String(value).replace('-', '−')} parse={parse} className="w-14" />;
}

function UnderWay({ state, onStop }: { state: PassState; onStop: () => void }) {
  if (state.kind !== 'running') return <p role="status">{messages.asking}</p>;
  const level = (peak: number) => (peak > 0 ? formatLevel(amplitudeToDb(peak), 'dBFS') : messages.silence);
  return (
    <div className="flex flex-col gap-2 text-sm">
      <ProgressBar label={messages.progress} fraction={state.fraction} />
      <div className="flex flex-wrap items-baseline gap-x-6 gap-y-1">
        <span role="status">{messages.running(formatTime(state.secondsLeft))}</span>
        <span data-level="sent" className="text-mute">
          {messages.sent} <b className="font-mono text-ink">{level(state.sentPeak)}</b>
        </span>
        <span data-level="returned" className="text-mute">
          {messages.returned} <b className="font-mono text-ink">{level(state.returnedPeak)}</b>
        </span>
        <span className="ml-auto">
          <Button title={messages.stopHint} onClick={onStop}>
            {messages.stop}
          </Button>
        </span>
      </div>
      {state.remark ? <p className="text-advice">○ {state.remark}</p> : null}
    </div>
  );
}

function PassRow({
  jobId,
  pass: { id, number, sentName, sampleRateHz, reading, returned, task },
}: {
  jobId: string;
  pass: PassView;
}) {
  const changed = useChanged();
  const problems = reading ? passProblems(reading, sampleRateHz) : [];
  const forget = () => void fetch(`/api/passes/${id}`, { method: 'DELETE' }).then(changed, () => undefined);
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-0.5 border-t border-hair py-1.5">
      <span className="font-semibold">{messages.pass(number, sentName)}</span>
      {reading ? (
        <span className="text-mute">{passText(reading, sampleRateHz)}</span>
      ) : (
        <span className="min-w-64 grow">
          <TaskState task={task} verb="aligning" />
        </span>
      )}
      <span className="ml-auto flex items-baseline gap-2">
        {returned ? (
          <WorkLink
            href={stageAddress(jobId, 'measure-and-set', { programme: returned.programmeId })}
            className="text-xs font-semibold text-slide-ink hover:underline"
          >
            {messages.openPass}
          </WorkLink>
        ) : null}
        <Button kind="inline" title={messages.forgetHint} onClick={forget}>
          {messages.forget}
        </Button>
      </span>
      {problems.map((problem) => (
        <span key={problem} className="w-full text-advice">
          ○ {problem}
        </span>
      ))}
    </li>
  );
}
