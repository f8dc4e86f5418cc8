'use client';

import { useState, useSyncExternalStore } from 'react';
import { formatSampleRate } from '@/core/units/format';
import { useDevices } from '@/features/common/capture/inputs';
import type { LiveLine } from '@/server/lines/live-lines';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { captureOf } from './capture';
import { inputMessages as messages } from './messages';

/** No device by name, in a list whose entries all have a value. */
const USUAL = '-';

/** The input of this machine that a line comes from: which, whether it is connected, and what that takes. */
export function InputRow({
  lineId,
  live,
  device,
  onDevice,
}: {
  lineId: string;
  live: LiveLine;
  /** What the input is called that was used last. */
  device: string;
  onDevice: (device: string) => void;
}) {
  const capture = captureOf(lineId);
  const state = useSyncExternalStore(capture.subscribe, capture.get, () => IDLE);
  const inputs = useDevices('audioinput', state.kind === 'running');
  const known = inputs.find(({ label }) => label === device);
  const [chosen, setChosen] = useState<string>();
  const deviceId = chosen ?? known?.deviceId ?? USUAL;
  const isRunning = state.kind === 'running';
  const connect = async () => {
    await capture.start(deviceId === USUAL ? undefined : deviceId);
    const now = capture.get();
    if (now.kind === 'running' && now.device !== device) onDevice(now.device);
  };
  return (
    <fieldset aria-label={messages.input} className="flex flex-wrap items-center gap-2 text-[13px]">
      {isRunning ? null : (
        <Choice
          compact
          label={messages.choose}
          value={deviceId}
          options={[
            { value: USUAL, label: messages.usual },
            ...inputs.map(({ deviceId: value, label }) => ({ value, label })),
          ]}
          onChange={setChosen}
        />
      )}
      {isRunning ? (
        <Button kind="inline" onClick={() => capture.stop()}>
          {messages.disconnect}
        </Button>
      ) : (
        <Button
          kind="inline"
          whyNot={live.state === 'off' ? messages.turnOnFirst : null}
          disabled={state.kind === 'asking'}
          onClick={() => void connect()}
        >
          {messages.connect}
        </Button>
      )}
      <span role="status" className={state.kind === 'failed' ? 'text-breach' : 'text-mute'}>
        {state.kind === 'running'
          ? messages.running(state.device, state.channels, formatSampleRate(state.sampleRateHz))
          : state.kind === 'failed'
            ? messages.failed(state.reason)
            : state.kind === 'asking'
              ? messages.asking
              : live.state === 'sounding'
                ? messages.elsewhere
                : messages.explain}
      </span>
    </fieldset>
  );
}

const IDLE = { kind: 'idle' } as const;
