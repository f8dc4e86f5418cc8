import { useState } from 'react';
import { FAULTS, type FaultKind } from '@/core/live/simulated/faults';
import { Switch } from '@/ui/segments';
import { lineScreenMessages as messages } from './messages';

const SAVED_WITHIN_MS = 1000;

/** What goes wrong with a simulated line, to try what this page makes of it. What is pressed holds at once, until the server has it. */
export function SimulatedFaults({
  faults: saved,
  onChange,
}: {
  faults: readonly FaultKind[];
  onChange: (faults: FaultKind[]) => Promise<void>;
}) {
  const [pressed, setPressed] = useState<readonly FaultKind[]>();
  const faults = pressed ?? saved;
  const press = async (next: FaultKind[]) => {
    setPressed(next);
    await onChange(next);
    // By then the page has what is saved, whether it was taken or refused.
    setTimeout(() => setPressed((now) => (now === next ? undefined : now)), SAVED_WITHIN_MS);
  };
  return (
    <fieldset className="flex flex-wrap items-center gap-1.5" aria-label={messages.faults}>
      <span className="mr-1 text-xs text-mute">{messages.faults}</span>
      {FAULTS.map(({ kind, name, words }) => (
        <Switch
          key={kind}
          compact
          hint={words}
          isOn={faults.includes(kind)}
          onChange={(isOn) => void press(isOn ? [...faults, kind] : faults.filter((own) => own !== kind))}
        >
          {name}
        </Switch>
      ))}
    </fieldset>
  );
}
