'use client';

import { useQuery } from '@tanstack/react-query';
import { Play, Square } from 'lucide-react';
import { useCallback, useEffect, useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { faultWords } from '@/core/lineup/null/fault-words';
import type { Place } from '@/core/lineup/null/null-source';
import { formatGain, formatTime } from '@/core/units/format';
import { recordOf } from '@/features/common/data/fetch-json';
import { ErrorNotice } from '@/features/common/error-notice';
import { StateMark } from '@/features/common/state-mark';
import type { StemsView } from '@/server/stems/null-test';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { stemsMessages as messages } from '../messages';
import { residualQuery } from '../queries';
import { useKey, usePlayed } from '../use-played';
import type { Mix, Test } from './picture';

/** What is wrong with stems that do not add up, each with what is left to be heard, and as a note to whoever made them. */
export function Faults({
  lineUpId,
  mix,
  stems,
  test,
}: {
  lineUpId: string;
  mix: Mix;
  stems: StemsView['stems'];
  test: Test;
}) {
  const { faults } = test.reading;
  const [heardAt, setHeardAt] = useState<number>();
  const [isWanted, setIsWanted] = useState(false);
  const [copied, setCopied] = useState<number>();
  const [notCopied, setNotCopied] = useState<ErrorRecord>();
  const heard = heardAt === undefined ? undefined : faults[heardAt];
  const { data, error } = useQuery(residualQuery(lineUpId, placeOf(heard), test.testedAtMs));
  const { isPlaying, play, stop } = usePlayed(data);
  useEffect(() => {
    if (!isWanted || !data) return;
    setIsWanted(false);
    play(data);
  }, [isWanted, data, play]);
  const hear = useCallback(
    (index: number) => {
      if (isPlaying && index === heardAt) return stop();
      setHeardAt(index);
      setIsWanted(true);
    },
    [isPlaying, heardAt, stop],
  );
  useKey('h', () => faults.length > 0 && hear(heardAt ?? 0));
  const copy = async (index: number, note: string) => {
    try {
      await navigator.clipboard.writeText(note);
      setNotCopied(undefined);
      setCopied(index);
    } catch (cause) {
      setNotCopied(recordOf(cause));
    }
  };
  const names = stems.map(({ title }) => title);
  const time = (frame: number) => formatTime(frame / mix.sampleRateHz, { milliseconds: true });
  if (faults.length === 0) {
    return (
      <Card>
        <p className="text-sm">
          <StateMark state="inside" /> {messages.noFault}
        </p>
      </Card>
    );
  }
  return (
    <Card flush>
      <ErrorNotice error={error ? recordOf(error) : notCopied} />
      <ul>
        {faults.map((fault, i) => {
          const words = faultWords(fault, names, mix.sampleRateHz);
          const [from, to] = [time(fault.startFrame), time(fault.endFrame)];
          const isHeard = isPlaying && i === heardAt;
          return (
            <li
              key={`${fault.kind} ${from} ${words}`}
              className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-hair bg-breach-1/50 px-4 py-2 last:border-b-0"
            >
              <span className="font-mono text-sm font-semibold text-breach">▲ {messages.place(from, to)}</span>
              <span className="min-w-64 flex-1 text-sm">{words}</span>
              <span className="flex items-center gap-2">
                {isHeard && data && data.raisedByDb > 0.05 ? (
                  <span className="text-xs text-mute">{messages.raisedBy(formatGain(data.raisedByDb))}</span>
                ) : null}
                <Button title={isHeard ? messages.stop : messages.hearKey} onClick={() => hear(i)}>
                  {isHeard ? <Square size={14} aria-hidden /> : <Play size={14} aria-hidden />}
                  <span className="ml-1">{messages.hear}</span>
                </Button>
                <Button onClick={() => void copy(i, messages.note(mix.title, from, to, words))}>
                  {copied === i ? messages.copied : messages.copyNote}
                </Button>
              </span>
            </li>
          );
        })}
      </ul>
    </Card>
  );
}

function placeOf(fault: Place | undefined): Place | null {
  return fault ? { startFrame: fault.startFrame, endFrame: fault.endFrame } : null;
}
