'use client';

import { useState } from 'react';
import { type Trim, trimmedRange } from '@/core/treatment/steps/trim';
import { formatTime } from '@/core/units/format';
import type { StartTimeCode } from '@/core/units/time-code';
import type { SourceKey, Trace } from '@/features/common/use-trace';
import { Button } from '@/ui/button';
import type { Span } from '../../trace/view';
import { soundRange, zeroCrossing } from '../edges';
import { TimeField } from './fields';
import { trimMessages as messages } from './messages';
import { definePanel } from './panel';

export const trimPanel = definePanel({
  name: messages.trim,
  steps: ['trim'],
  state: ({ treatment: { trim }, treated: { trace, source }, format, timeCode, span, onCommit }) => {
    const time = (frame: number) => formatTime(frame / format.sampleRateHz, { milliseconds: true });
    const range = trimmedRange(trim, format.frames);
    return {
      isOn: trim !== null,
      summary: trim ? `${time(range.startFrame)} – ${time(range.endFrame)}` : 'none',
      onToggle: (isOn) => onCommit({ trim: isOn ? (span ?? { startFrame: 0, endFrame: null }) : null }),
      editor:
        typeof trace === 'object' ? (
          <TrimEditor
            trim={trim}
            span={span}
            source={source}
            trace={trace}
            timeCode={timeCode}
            onChange={(next) => onCommit({ trim: next })}
          />
        ) : null,
    };
  },
});

function TrimEditor({
  trim,
  span,
  source,
  trace,
  timeCode,
  onChange,
}: {
  trim: Trim | null;
  span: Span | null;
  source: SourceKey;
  trace: Trace;
  timeCode: StartTimeCode | null;
  onChange: (trim: Trim | null) => void;
}) {
  const { frames, sampleRateHz } = trace.meta;
  const [isBusy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string>();
  const { startFrame, endFrame } = trimmedRange(trim, frames);
  const set = (range: Span) => {
    const isAll = range.startFrame <= 0 && range.endFrame >= frames;
    if (range.endFrame - range.startFrame < 1) return;
    onChange(
      isAll ? null : { startFrame: range.startFrame, endFrame: range.endFrame >= frames ? null : range.endFrame },
    );
  };
  const find = async (work: () => Promise<Span | null>) => {
    setBusy(true);
    setProblem(undefined);
    try {
      const found = await work();
      if (found) set(found);
      else setProblem(messages.noSound);
    } catch {
      setProblem(messages.notRead);
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <TimeField
        label={messages.start}
        frame={startFrame}
        sampleRateHz={sampleRateHz}
        most={endFrame - 1}
        timeCode={timeCode}
        onCommit={(frame) => set({ startFrame: frame, endFrame })}
      />
      <TimeField
        label={messages.end}
        frame={endFrame}
        sampleRateHz={sampleRateHz}
        most={frames}
        timeCode={timeCode}
        onCommit={(frame) => set({ startFrame, endFrame: frame })}
      />
      <p className="text-right font-mono text-xs text-mute">
        {messages.endAndLength(
          formatTime((endFrame - startFrame) / sampleRateHz, { milliseconds: true }),
          endFrame - startFrame,
        )}
      </p>
      <div className="flex flex-wrap gap-1.5">
        <Button className="py-0.5 text-xs" whyNot={span ? null : messages.drawASpan} onClick={() => span && set(span)}>
          {messages.toTheSpan}
        </Button>
        <Button className="py-0.5 text-xs" disabled={isBusy} onClick={() => void find(() => soundRange(source, trace))}>
          {messages.firstToLastSound}
        </Button>
        <Button
          className="py-0.5 text-xs"
          disabled={isBusy}
          onClick={() =>
            void find(async () => ({
              startFrame: startFrame === 0 ? 0 : await zeroCrossing(source, trace, startFrame),
              endFrame: endFrame === frames ? frames : await zeroCrossing(source, trace, endFrame),
            }))
          }
        >
          {messages.toZeroCrossings}
        </Button>
      </div>
      {problem ? (
        <p role="alert" className="text-xs text-breach">
          {problem}
        </p>
      ) : null}
    </>
  );
}
