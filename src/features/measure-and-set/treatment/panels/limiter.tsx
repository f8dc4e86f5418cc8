'use client';

import { hasPositions } from '@/core/limiter/link';
import { channelLayout } from '@/core/loudness/channel-layout';
import { type Limit, LOOK_AHEADS_MS, RELEASES_MS, USUAL_LIMITER } from '@/core/treatment/steps/limit';
import { formatLevel, formatNumber } from '@/core/units/format';
import { parseNumber } from '@/core/units/parse';
import type { Treated } from '@/features/common/use-treated';
import { Segments } from '@/ui/segments';
import { TypedField } from '@/ui/typed-field';
import { DbField, within } from './fields';
import { limiterMessages as messages } from './messages';
import { definePanel } from './panel';

export const limiterPanel = definePanel({
  name: messages.limiter,
  steps: ['limit'],
  state: ({ treatment: { limit }, treated, format, ceilingDbtp, onCommit }) => {
    const usual = { ceilingDbtp: Math.min(0, ceilingDbtp), ...USUAL_LIMITER };
    const layout = channelLayout(format.channels, format.channelMask);
    return {
      isOn: limit !== null,
      summary: limit ? limitText(limit.ceilingDbtp, treated) : messages.noLimiter,
      onToggle: (isOn) => onCommit({ limit: isOn ? usual : null }),
      editor: (
        <LimiterEditor
          limit={limit ?? usual}
          hasLfe={layout.channels.some(({ weight }) => weight === 0)}
          hasPositions={hasPositions(layout)}
          onChange={(next) => onCommit({ limit: next })}
        />
      ),
    };
  },
});

function limitText(ceilingDbtp: number, { limited }: Treated): string {
  const at = messages.atCeiling(formatLevel(ceilingDbtp, 'dBTP'));
  if (typeof limited !== 'object') return limited === 'failed' ? messages.reductionNotKnown(at) : `${at} …`;
  const { greatestDb } = limited.limited.reduction;
  return greatestDb === 0 ? messages.notLimiting(at) : messages.upTo(at, formatNumber(greatestDb));
}

const LOOK_AHEAD_STEP_MS = 0.1;

function held(value: number, { least, most }: { least: number; most: number }): number {
  return Math.min(most, Math.max(least, value));
}

function LimiterEditor({
  limit,
  hasLfe,
  hasPositions: isPlaced,
  onChange,
}: {
  limit: Limit;
  hasLfe: boolean;
  hasPositions: boolean;
  onChange: (limit: Limit) => void;
}) {
  const { linkGroups, ...linkedAll } = limit;
  const { ceilingDbtp, link, lfe, lookAheadMs, releaseMs } = limit;
  const setLookAhead = (value: number) =>
    onChange({ ...limit, lookAheadMs: held(Math.round(100 * value) / 100, LOOK_AHEADS_MS) });
  return (
    <>
      <DbField
        label={messages.ceiling}
        valueDb={ceilingDbtp}
        least={-12}
        most={0}
        unit="dBTP"
        onCommit={(value) => onChange({ ...limit, ceilingDbtp: value })}
      />
      <TypedField
        label={messages.link}
        value={link}
        format={(value) => `${Math.round(100 * value)} %`}
        parse={(text) => {
          const percent = within(parseNumber(text, '%'), 0, 100);
          return percent === undefined ? undefined : percent / 100;
        }}
        onCommit={(value) => onChange({ ...limit, link: value })}
        onStep={(steps) => onChange({ ...limit, link: Math.min(1, Math.max(0, Math.round(100 * link + steps) / 100)) })}
      />
      {isPlaced ? (
        <div className="flex items-center justify-between gap-3 text-[13px]" title={messages.byPositionHint}>
          {messages.linkGroups}
          <Segments
            label={messages.linkGroups}
            value={linkGroups ?? 'all'}
            options={[
              { value: 'all', label: messages.all },
              { value: 'by-position', label: messages.byPosition },
            ]}
            onChange={(value) => onChange(value === 'all' ? linkedAll : { ...linkedAll, linkGroups: 'by-position' })}
          />
        </div>
      ) : null}
      <TypedField
        label={messages.lookAhead}
        value={lookAheadMs}
        format={(value) => `${value} ms`}
        parse={(text) => within(parseNumber(text, 'ms'), LOOK_AHEADS_MS.least, LOOK_AHEADS_MS.most)}
        onCommit={(value) => setLookAhead(value)}
        onStep={(steps) => setLookAhead(lookAheadMs + LOOK_AHEAD_STEP_MS * steps)}
      />
      <div className="flex items-center justify-between gap-3 text-[13px]">
        {messages.release}
        <Segments
          label={messages.release}
          value={releaseMs === null ? 'programme' : 'set'}
          options={[
            { value: 'programme', label: messages.automatic },
            { value: 'set', label: messages.fixed },
          ]}
          onChange={(value) => onChange({ ...limit, releaseMs: value === 'set' ? 100 : null })}
        />
      </div>
      {releaseMs === null ? null : (
        <TypedField
          label={messages.releaseTime}
          value={releaseMs}
          format={(value) => `${value} ms`}
          parse={(text) => within(parseNumber(text, 'ms'), RELEASES_MS.least, RELEASES_MS.most)}
          onCommit={(value) => onChange({ ...limit, releaseMs: Math.round(value) })}
          onStep={(steps) => onChange({ ...limit, releaseMs: held(releaseMs + steps, RELEASES_MS) })}
        />
      )}
      {hasLfe ? (
        <div className="flex items-center justify-between gap-3 text-[13px]">
          {messages.lowFrequencyChannel}
          <Segments
            label={messages.lowFrequencyChannel}
            value={lfe}
            options={[
              { value: 'linked', label: messages.linked },
              { value: 'apart', label: messages.separate },
            ]}
            onChange={(value) => onChange({ ...limit, lfe: value })}
          />
        </div>
      ) : null}
      <p className="max-w-72 text-xs text-mute">{messages.whatItDoes(formatLevel(ceilingDbtp, 'dBTP'))}</p>
    </>
  );
}
