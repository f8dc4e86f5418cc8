'use client';

import { useQuery } from '@tanstack/react-query';
import type { Balance } from '@/core/lineup/line-up';
import { formatLevel, formatNumber } from '@/core/units/format';
import { StateMark } from '@/features/common/state-mark';
import type { BalanceForecast } from '@/server/line-ups/balance';
import { Button } from '@/ui/button';
import { balanceMessages as messages } from './messages';
import { balancesQuery } from './queries';

const BALANCES: readonly { balance: Balance; label: string; hint: string }[] = [
  { balance: 'whole-at-target', label: messages.wholeAtTarget, hint: messages.wholeHint },
  { balance: 'loudest-at-target', label: messages.loudestAtTarget, hint: messages.loudestHint },
  { balance: 'each-at-target', label: messages.eachAtTarget, hint: messages.eachHint },
];

/** Each way of setting the levels of a line-up, with what it would come to. */
export function SetLevels({
  jobId,
  lineUpId,
  specId,
  settingsKey,
  isBusy,
  onBalance,
}: {
  jobId: string;
  lineUpId: string;
  specId: string;
  /** Changes with whatever a forecast is made from. */
  settingsKey: string;
  isBusy: boolean;
  onBalance: (balance: Balance) => void;
}) {
  const { data } = useQuery(balancesQuery(jobId, lineUpId, specId, settingsKey));
  return (
    <section className="border-b border-hair px-4 py-2.5" aria-label={messages.heading}>
      <h2 className="mb-1.5 text-sm font-bold">{messages.heading}</h2>
      <ul className="grid gap-2 sm:grid-cols-3">
        {BALANCES.map(({ balance, label, hint }) => {
          const forecast = data?.find((own) => own.balance === balance);
          return (
            <li key={balance} className="flex flex-col gap-1">
              <Button title={hint} disabled={isBusy || forecast?.outcome === null} onClick={() => onBalance(balance)}>
                {label}
              </Button>
              <Outcome forecast={forecast} />
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Outcome({ forecast }: { forecast: BalanceForecast | undefined }) {
  if (!forecast) return <p className="text-xs text-mute">{messages.forecasting}</p>;
  const { outcome } = forecast;
  if (!outcome) return <p className="text-xs text-mute">{messages.noTarget}</p>;
  const { integratedLufs, softestLufs, loudestLufs, truePeakDbtp, reductionDb, stoppedBy } = outcome;
  const number = (level: number | null) => (level === null ? '−∞' : formatNumber(level));
  return (
    <p className="font-mono text-xs text-mute">
      {messages.lands(formatLevel(integratedLufs, 'LUFS'), number(softestLufs), number(loudestLufs))}
      <br />
      {messages.costs(
        formatLevel(truePeakDbtp, 'dBTP'),
        reductionDb === null ? null : `${formatNumber(reductionDb)} dB`,
      )}
      {stoppedBy.length > 0 ? (
        <>
          <br />
          <span className="font-sans text-advice">
            <StateMark state="advice" /> {messages.stoppedBy(stoppedBy.join(', '))}
          </span>
        </>
      ) : null}
    </p>
  );
}
