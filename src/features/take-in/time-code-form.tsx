'use client';

import { useState } from 'react';
import type { LabelledStart } from '@/core/delivery/start-time-code';
import {
  describeTimeCodeRate,
  parseTimeCode,
  TIME_CODE_RATES,
  type TimeCodeRate,
  timeCodeRateOf,
} from '@/core/units/time-code';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { useAct } from '@/features/common/use-act';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { Field } from '@/ui/field';
import { setTimeCode } from './actions';
import { timeCodeFormMessages as messages } from './messages';

const USUAL_RATE: TimeCodeRate = '25';

/** Sets the time code of a programme's first frame by hand, or takes that of its file again. */
export function TimeCodeForm({
  programmeId,
  set,
  framesPerSecond,
  onSet,
}: {
  programmeId: string;
  /** Null where none was set by hand. */
  set: LabelledStart | null;
  /** Of the picture, where there is one. */
  framesPerSecond: number | null;
  onSet: () => void;
}) {
  const [label, setLabel] = useState(set?.label ?? '');
  const [rate, setRate] = useState<TimeCodeRate>(
    set?.rate ?? (framesPerSecond === null ? undefined : timeCodeRateOf(framesPerSecond, false)) ?? USUAL_RATE,
  );
  const { act, isBusy, error } = useAct(useChanged());
  const problem = label === '' || parseTimeCode(label, rate) !== undefined ? undefined : messages.notRead;
  return (
    <form
      className="mt-2 flex flex-col gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (label !== '' && !problem) void act(() => setTimeCode(programmeId, { label, rate }), onSet);
      }}
    >
      <div className="flex items-start gap-3">
        <Field
          label={messages.byHand}
          placeholder={messages.example}
          value={label}
          onChange={(event) => setLabel(event.target.value.trim())}
          problem={problem}
        />
        <span className="pt-5">
          <Choice
            label={messages.rate}
            value={rate}
            options={TIME_CODE_RATES.map((own) => ({ value: own, label: describeTimeCodeRate(own) }))}
            onChange={(own) => setRate(own as TimeCodeRate)}
          />
        </span>
      </div>
      <div className="flex gap-2">
        <Button type="submit" disabled={isBusy || label === '' || problem !== undefined}>
          {messages.set}
        </Button>
        {set ? (
          <Button disabled={isBusy} onClick={() => void act(() => setTimeCode(programmeId, null), onSet)}>
            {messages.ofTheFile}
          </Button>
        ) : null}
      </div>
      <ErrorNotice error={error} />
    </form>
  );
}
