'use client';

import { useEffect, useState, useSyncExternalStore } from 'react';
import { amplitudeToDb } from '@/core/units/decibel';
import { formatLevel, formatTime } from '@/core/units/format';
import { useChanged } from '@/features/common/data/use-changed';
import { useLeaveWarning } from '@/features/common/use-leave-warning';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { ProgressBar } from '@/ui/progress-bar';
import { useDesk } from '../desk/desk-context';
import { outboardMessages as messages } from './messages';
import { OutboardPass } from './outboard-pass';
import { PassRow } from './pass-row';
import type { PassState } from './pass-run';
import { PatchForm, savedPatching } from './patch-form';

/** A dialog that sends the programme through outboard gear in real time, and lists what came back. */
export function Outboard({ onClose }: { onClose: () => void }) {
  const { jobId, programme, audition } = useDesk();
  const [pass] = useState(() => new OutboardPass(programme.id));
  const state = useSyncExternalStore(pass.subscribe, pass.get, () => IDLE);
  const isUnderWay = state.kind === 'running' || state.kind === 'asking';
  useLeaveWarning(isUnderWay);
  useEffect(() => () => pass.stop(), [pass]);
  const [wanted, setWanted] = useState(savedPatching);
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
          <PatchForm
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

function UnderWay({ state, onStop }: { state: PassState; onStop: () => void }) {
  const stop = (
    <Button title={messages.stopHint} onClick={onStop}>
      {messages.stop}
    </Button>
  );
  if (state.kind !== 'running') {
    return (
      <p role="status" className="flex items-baseline justify-between gap-4 text-sm">
        {messages.asking}
        {stop}
      </p>
    );
  }
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
        <span className="ml-auto">{stop}</span>
      </div>
      {state.remark ? <p className="text-advice">○ {state.remark}</p> : null}
    </div>
  );
}
