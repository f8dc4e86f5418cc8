import { useState } from 'react';
import { PRE_ROLL_SECONDS } from '@/core/live/line';
import type { LineControl } from '@/server/http/line-operations';
import type { LiveLine } from '@/server/lines/live-lines';
import { Button } from '@/ui/button';
import { Popup } from '@/ui/popup';
import { Segments } from '@/ui/segments';
import { LateButton } from './late-button';
import { lineScreenMessages as messages } from './messages';

/** What can be done with a line: turned on and off, paused, reset, marked, recorded. */
export function LineControls({
  live,
  isBusy,
  onWish,
}: {
  live: LiveLine;
  isBusy: boolean;
  onWish: (wish: LineControl) => void;
}) {
  const [from, setFrom] = useState<'now' | 'ago'>('now');
  const [depth, setDepth] = useState<'24' | '32'>('24');
  const isOff = live.state === 'off';
  if (isOff) {
    return (
      <LateButton kind="primary" disabled={isBusy} onClick={() => onWish({ do: 'turn-on' })}>
        {messages.turnOn}
      </LateButton>
    );
  }
  const whyNotRecord = live.format === null ? messages.notSounding : null;
  const record: LineControl = {
    do: 'record',
    bitDepth: depth === '24' ? 24 : 32,
    preRollSeconds: from === 'ago' ? PRE_ROLL_SECONDS : 0,
  };
  return (
    <>
      <Button title={messages.markerHint} onClick={() => onWish({ do: 'marker' })}>
        {messages.marker}
      </Button>
      <Button title={messages.pauseHint} onClick={() => onWish({ do: live.isHeld ? 'continue' : 'pause' })}>
        {live.isHeld ? messages.continue : messages.pause}
      </Button>
      <Button title={messages.resetHint} onClick={() => onWish({ do: 'reset' })}>
        {messages.reset}
      </Button>
      {live.recording ? (
        <LateButton kind="primary" onClick={() => onWish({ do: 'stop-recording' })}>
          {messages.stop}
        </LateButton>
      ) : (
        <>
          <Button kind="primary" title={messages.recordHint} whyNot={whyNotRecord} onClick={() => onWish(record)}>
            {messages.record}
          </Button>
          <Popup name={messages.recordOptions}>
            <div className="flex flex-col items-start gap-2 text-xs text-mute">
              {messages.preRoll}
              <Segments
                label={messages.preRoll}
                value={from}
                options={(['now', 'ago'] as const).map((value) => ({ value, label: messages.preRolls[value] }))}
                onChange={setFrom}
              />
              {messages.depth}
              <Segments
                label={messages.depth}
                value={depth}
                options={(['24', '32'] as const).map((value) => ({ value, label: messages.depths[value] }))}
                onChange={setDepth}
              />
            </div>
          </Popup>
        </>
      )}
      <LateButton disabled={isBusy} onClick={() => onWish({ do: 'turn-off' })}>
        {messages.turnOff}
      </LateButton>
    </>
  );
}
