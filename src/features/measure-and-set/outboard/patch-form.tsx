'use client';

import { type Device, useDevices } from '@/features/common/capture/inputs';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { TypedField } from '@/ui/typed-field';
import type { SimulatedGear } from './audio-graph';
import { outboardMessages as messages } from './messages';
import type { OutboardPass } from './outboard-pass';
import { type SentChoice, useSentChoices } from './use-sent-choices';

/** The usual device, and the simulated one, in lists whose entries all have a value. */
const USUAL = '-';
const SIMULATED = 'simulated';
const MOST_CHANNELS = 32;
const STORED = 'opsimeter-outboard';

/** What is asked for: saved on this machine, since gear stays where it is plugged in. */
export interface Patching {
  sentId: string;
  outputId: string;
  inputId: string;
  firstOutput: number;
  firstInput: number;
  gear: SimulatedGear;
}

const USUALLY: Patching = {
  sentId: 'treated',
  outputId: USUAL,
  inputId: USUAL,
  firstOutput: 1,
  firstInput: 1,
  gear: { gainDb: -1, delayMs: 20, noiseDbfs: -90 },
};

/** What was asked for last on this machine. */
export function savedPatching(): Patching {
  try {
    return { ...USUALLY, ...JSON.parse(localStorage.getItem(STORED) ?? '{}'), sentId: USUALLY.sentId };
  } catch {
    return USUALLY;
  }
}

/** What is sent, where to, and where it comes back. */
export function PatchForm({
  wanted,
  onWanted,
  onStart,
}: {
  wanted: Patching;
  onWanted: (change: Partial<Patching>) => void;
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
