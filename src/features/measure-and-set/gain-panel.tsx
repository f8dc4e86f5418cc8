'use client';

import { type KeyboardEvent, useState } from 'react';
import { gainDbSchema, roundGain } from '@/core/treatment/steps/gain';

import { formatGain, formatNumber } from '@/core/units/format';
import { Button } from '@/ui/button';
import type { KeyMap } from './commands';
import { gainPanelMessages as messages } from './messages';
import type { GainChoice } from './use-options';

/** The gain as a number that can be typed, and the gains that mean something, each with its key. */
export function GainPanel({
  gainDb,
  choices,
  keys,
  onCommit,
}: {
  gainDb: number;
  choices: readonly GainChoice[];
  keys: KeyMap;
  onCommit: (gainDb: number) => void;
}) {
  return (
    <div className="flex shrink-0 flex-col justify-between gap-1 border-dashed border-hair lg:w-60 lg:border-l lg:pl-4">
      <div className="flex items-baseline justify-between">
        <label htmlFor="gain" className="text-xs text-mute">
          {messages.gain}
        </label>
        <GainField gainDb={gainDb} onCommit={onCommit} />
      </div>
      <div className="flex max-h-56 grow flex-col gap-1">
        {choices.map(({ id, name, gainDb: choice }) => (
          <Button
            key={id}
            whyNot={choice === null ? messages.nothingToGoBy : null}
            aria-keyshortcuts={keys[id]}
            onClick={() => choice !== null && onCommit(choice)}
            className="h-7 shrink-0 grow text-[13px]"
          >
            <span className="grow text-left">{name}</span>
            <span className="flex min-w-20 justify-end gap-2 font-mono text-xs font-normal text-mute">
              {choice === null ? '' : formatGain(choice)}
              <kbd className="text-stock-ink">{keys[id]}</kbd>
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
        className="field-sizing-content min-w-16 rounded-control bg-transparent text-right font-mono text-2xl leading-8 font-bold aria-invalid:text-breach"
      />
      <span className="font-mono text-lg font-bold">{messages.dB}</span>
    </div>
  );
}

function parseGain(text: string): number | undefined {
  const plain = text.replace(/dB/i, '').replace(/[−–]/g, '-').replace(',', '.').replace(/\s/g, '');
  if (!/^[+-]?(\d+(\.\d*)?|\.\d+)$/.test(plain)) return undefined;
  const gainDb = gainDbSchema.safeParse(Number(plain));
  return gainDb.success ? roundGain(gainDb.data) : undefined;
}
