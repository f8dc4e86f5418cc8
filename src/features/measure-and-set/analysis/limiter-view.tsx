'use client';

import { useMemo } from 'react';
import { CartesianGrid, Line, LineChart, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { formatNumber } from '@/core/units/format';
import type { Colours } from '@/features/common/colours';
import { useDesk } from '../desk/desk-context';
import { type LimiterWork, limiterWork } from './figures';
import { limiterViewMessages as messages, viewFrameMessages } from './messages';
import { useSettingActions, ViewFrame, ViewNote } from './view-frame';

/** From here on a limiter is heard to work, as common practice has it (no source). */
const HEARD_DB = 3;

/** What a limiter does: how often it takes how much, and the loudness that costs at each level. */
export function LimiterView({ colours }: { colours: Colours }) {
  const { treated, treatment } = useDesk();
  const { prepared, limited } = treated;
  const { limit } = treatment;
  const settings = useSettingActions();
  const work = useMemo(() => {
    if (!prepared || typeof limited !== 'object') return null;
    const { reductionsDb, weightedPower } = limited.limited;
    const { gainDb } = limited;
    return limiterWork(reductionsDb, { values: prepared.weightedPower, gainDb }, { values: weightedPower, gainDb });
  }, [prepared, limited]);
  if (!limit || !work) {
    const note = limit ? (limited === 'failed' ? viewFrameMessages.failed : viewFrameMessages.reading) : messages.off;
    return (
      <ViewFrame view="limiter" answer="" actions={[settings.setTheLimiter]}>
        <ViewNote>{note}</ViewNote>
      </ViewFrame>
    );
  }
  const heard = work.histogram.filter(({ fromDb }) => fromDb >= HEARD_DB).reduce((sum, { share }) => sum + share, 0);
  const any = work.histogram.reduce((sum, { share }) => sum + share, 0);
  const answer = any === 0 ? messages.nothing : messages.share(formatNumber(HEARD_DB, 0), formatNumber(100 * heard));
  return (
    <ViewFrame view="limiter" answer={answer} actions={[settings.setTheLimiter]}>
      <div className="grid h-full grid-cols-2 gap-2">
        <Histogram histogram={work.histogram} />
        <Cost levels={work.levels} colours={colours} />
      </div>
    </ViewFrame>
  );
}

function Histogram({ histogram }: Pick<LimiterWork, 'histogram'>) {
  const most = Math.max(1e-6, ...histogram.map(({ share }) => share));
  return (
    <ol aria-label={messages.classes} className="flex min-h-0 flex-col justify-evenly">
      {histogram.map(({ fromDb, share }, i) => {
        const next = histogram[i + 1]?.fromDb;
        const name = next === undefined ? messages.from(`${fromDb}`) : messages.between(`${fromDb}`, `${next}`);
        return (
          <li key={fromDb} className="flex min-h-0 items-center gap-1 font-mono text-[9px] leading-none text-mute">
            <span className="w-17 shrink-0 text-right whitespace-nowrap">{name}</span>
            <span className="h-2 min-w-0 grow">
              <i className="block h-full bg-breach-line" style={{ width: `${(100 * share) / most}%` }} />
            </span>
            <span className="w-10 shrink-0 text-right text-ink">{`${formatNumber(100 * share)} %`}</span>
          </li>
        );
      })}
    </ol>
  );
}

/** By how much each level comes out softer than it went in. */
function Cost({ levels, colours }: Pick<LimiterWork, 'levels'> & { colours: Colours }) {
  const rows = levels.map(({ inLufs, outLufs }) => ({ inLufs, lostLu: Math.max(0, inLufs - outLufs) }));
  return (
    <div className="flex min-w-0 flex-col">
      <div role="img" aria-label={messages.levels} title={messages.levels} className="min-h-0 min-w-0 grow">
        <ResponsiveContainer width="100%" height="100%">
          <LineChart data={rows} margin={{ top: 4, right: 8, bottom: 0, left: 0 }}>
            <CartesianGrid stroke={colours.hair} vertical={false} />
            <XAxis
              dataKey="inLufs"
              type="number"
              domain={['dataMin', 'dataMax']}
              height={16}
              tickLine={false}
              tick={{ fill: colours.mute, fontSize: 9 }}
              tickFormatter={(value: number) => formatNumber(value, 0)}
            />
            <YAxis
              width={26}
              interval={0}
              tickCount={3}
              domain={[0, (most: number) => Math.max(1, Math.ceil(most))]}
              tickLine={false}
              tick={{ fill: colours.mute, fontSize: 9 }}
            />
            <Line
              dataKey="lostLu"
              stroke={colours['slide-ink']}
              strokeWidth={2}
              dot={{ r: 1.5 }}
              isAnimationActive={false}
            />
          </LineChart>
        </ResponsiveContainer>
      </div>
      <p aria-hidden className="text-center text-[9px] leading-[11px] text-mute">
        {messages.cost}
      </p>
    </div>
  );
}
