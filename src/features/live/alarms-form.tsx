'use client';

import { useState } from 'react';
import { ALARMS, type AlarmKind, type AlarmSettings } from '@/core/live/alarms/alarms';
import { parseNumber } from '@/core/units/parse';
import type { ActionResult } from '@/features/common/action-result';
import { FormProblem } from '@/features/common/form-problem';
import { sayUnreached } from '@/features/common/server-unreached';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { alarmsFormMessages as messages } from './messages';

/** What is typed of each number, by alarm and name. */
type Typed = Record<AlarmKind, { isOn: boolean; isHeard: boolean; numbers: Record<string, string> }>;

/** Which alarms a line has, when each comes, and whether it sounds. All of it is made from the list of alarms. */
export function AlarmsForm({
  lineName,
  alarms,
  onClose,
  save,
}: {
  lineName: string;
  alarms: AlarmSettings;
  onClose: () => void;
  save: (alarms: AlarmSettings) => Promise<ActionResult<string>>;
}) {
  const [typed, setTyped] = useState(() => typedOf(alarms));
  const [problem, setProblem] = useState<string>();
  const [isBusy, setIsBusy] = useState(false);
  const set = (kind: AlarmKind, change: Partial<Typed[AlarmKind]>) =>
    setTyped((before) => ({ ...before, [kind]: { ...before[kind], ...change } }));
  const submit = async () => {
    setIsBusy(true);
    const result = await save(settingsOf(typed)).catch(sayUnreached);
    setIsBusy(false);
    if (result.ok) onClose();
    else setProblem(('field' in result && result.field?.problem) || `${result.error.happened} ${result.error.todo}`);
  };
  return (
    <Dialog
      title={messages.title(lineName)}
      description={messages.about}
      isOpen
      onOpenChange={(isOpen) => (isOpen ? undefined : onClose())}
    >
      <form
        noValidate
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <ul>
          {ALARMS.map(({ kind, name, words, settings }) => (
            <li
              key={kind}
              className="grid grid-cols-[1fr_auto] gap-x-4 gap-y-1 border-b border-hair py-2 last:border-0"
            >
              <label className="flex cursor-pointer items-baseline gap-2">
                <input
                  type="checkbox"
                  aria-label={messages.isOn(name)}
                  checked={typed[kind].isOn}
                  onChange={(event) => set(kind, { isOn: event.target.checked })}
                />
                <span>
                  <span className="font-semibold">{name}</span>
                  <span className="block text-xs text-mute">{words}</span>
                </span>
              </label>
              <span className="flex items-center gap-4">
                {Object.entries(settings).map(([own, { label, unit }]) => (
                  <label key={own} className="flex items-center gap-1 text-xs text-mute">
                    {label}
                    <input
                      inputMode="decimal"
                      value={typed[kind].numbers[own] ?? ''}
                      onChange={(event) =>
                        set(kind, { numbers: { ...typed[kind].numbers, [own]: event.target.value } })
                      }
                      className="w-14 rounded-control border border-stock-3 bg-sheet px-1.5 py-0.5 text-right font-mono text-sm text-ink"
                    />
                    {unit}
                  </label>
                ))}
                <label className="flex cursor-pointer items-center gap-1 text-xs text-mute" title={messages.heardHint}>
                  <input
                    type="checkbox"
                    aria-label={messages.isHeard(name)}
                    checked={typed[kind].isHeard}
                    onChange={(event) => set(kind, { isHeard: event.target.checked })}
                  />
                  {messages.heard}
                </label>
              </span>
            </li>
          ))}
        </ul>
        <FormProblem>{problem}</FormProblem>
        <footer className="flex justify-end">
          <Button kind="primary" type="submit" disabled={isBusy}>
            {messages.save}
          </Button>
        </footer>
      </form>
    </Dialog>
  );
}

function typedOf(alarms: AlarmSettings): Typed {
  return Object.fromEntries(
    ALARMS.map(({ kind }) => {
      const { isOn, isHeard, numbers } = alarms[kind];
      const texts = Object.entries(numbers).map(([name, number]) => [name, String(number).replace('-', '−')]);
      return [kind, { isOn, isHeard, numbers: Object.fromEntries(texts) }];
    }),
  ) as Typed;
}

/** What is no number is refused where it is saved, in words of its own. */
function settingsOf(typed: Typed): AlarmSettings {
  return Object.fromEntries(
    ALARMS.map(({ kind }) => {
      const { isOn, isHeard, numbers } = typed[kind];
      const read = Object.entries(numbers).map(([name, text]) => [name, parseNumber(text) ?? text]);
      return [kind, { isOn, isHeard, numbers: Object.fromEntries(read) }];
    }),
  ) as AlarmSettings;
}
