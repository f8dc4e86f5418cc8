'use client';

import { type KeyboardEvent, useState } from 'react';
import { gainDbSchema, roundGain } from '@/core/treatment/gain';

import { formatGain, formatNumber } from '@/core/units/format';
import { Button } from '@/ui/button';

export interface GainChoice {
  key: 'T' | 'C' | 'H' | '0';
  name: string;
  /** Null where there is nothing to work it out from. */
  gainDb: number | null;
}

/** The gain as a number that can be typed, and the gains that mean something, each with its key. */
export function GainPanel({
  gainDb,
  choices,
  onCommit,
}: {
  gainDb: number;
  choices: readonly GainChoice[];
  onCommit: (gainDb: number) => void;
}) {
  return (
    <div className="flex shrink-0 flex-col justify-between gap-1 border-dashed border-hair lg:w-60 lg:border-l lg:pl-4">
      <div className="flex items-baseline justify-between">
        <label htmlFor="gain" className="text-xs text-mute">
          gain
        </label>
        <GainField gainDb={gainDb} onCommit={onCommit} />
      </div>
      <div className="flex flex-col gap-1">
        {choices.map(({ key, name, gainDb: choice }) => (
          <Button
            key={key}
            disabled={choice === null}
            aria-keyshortcuts={key}
            onClick={() => choice !== null && onCommit(choice)}
            className="py-0.5 text-[13px]"
          >
            <span className="grow text-left">{name}</span>
            <span className="flex gap-2 font-mono text-xs font-normal text-mute">
              {choice === null ? '' : formatGain(choice)}
              <kbd className="text-stock-ink">{key}</kbd>
            </span>
          </Button>
        ))}
      </div>
    </div>
  );
}

/** Shows the gain; takes a typed one on Enter or when it is left, with either minus and either decimal mark. */
function GainField({ gainDb, onCommit }: { gainDb: number; onCommit: (gainDb: number) => void }) {
  const [typed, setTyped] = useState<string>();
  const parsed = typed === undefined ? undefined : parseGain(typed);
  const commit = () => {
    if (parsed !== undefined) onCommit(parsed);
    setTyped(undefined);
  };
  const pressKey = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === 'Enter') commit();
    if (event.key === 'Escape') setTyped(undefined);
  };
  return (
    <div className="flex items-baseline gap-1.5">
      <input
        id="gain"
        inputMode="decimal"
        autoComplete="off"
        title={formatGain(gainDb, 2)}
        value={typed ?? formatNumber(gainDb, 1, { plus: true })}
        aria-invalid={typed !== undefined && parsed === undefined}
        onChange={(event) => setTyped(event.target.value)}
        onFocus={(event) => event.target.select()}
        onBlur={commit}
        onKeyDown={pressKey}
        className="field-sizing-content min-w-16 rounded-control bg-transparent text-right font-mono text-3xl leading-10 font-bold aria-invalid:text-breach"
      />
      <span className="font-mono text-lg font-bold">dB</span>
    </div>
  );
}

function parseGain(text: string): number | undefined {
  const plain = text.replace(/dB/i, '').replace(/[−–]/g, '-').replace(',', '.').replace(/\s/g, '');
  if (!/^[+-]?(\d+(\.\d*)?|\.\d+)$/.test(plain)) return undefined;
  const gainDb = gainDbSchema.safeParse(Number(plain));
  return gainDb.success ? roundGain(gainDb.data) : undefined;
}
