'use client';

import { channelLayout } from '@/core/loudness/channel-layout';
import { type Limit, LOOK_AHEADS_MS, RELEASES_MS, USUAL_LIMITER } from '@/core/treatment/steps/limit';
import { formatLevel, formatNumber } from '@/core/units/format';
import { parseNumber } from '@/core/units/parse';
import type { Treated } from '@/features/common/use-treated';
import { Segments } from '@/ui/segments';
import { TypedField } from '@/ui/typed-field';
import { DbField, within } from './fields';
import { definePanel } from './panel';

export const limiterPanel = definePanel({
  name: 'Limiter',
  steps: ['limit'],
  state: ({ treatment: { limit }, treated, format, ceilingDbtp, onCommit }) => {
    const usual = { ceilingDbtp: Math.min(0, ceilingDbtp), ...USUAL_LIMITER };
    const layout = channelLayout(format.channels, format.channelMask);
    return {
      isOn: limit !== null,
      summary: limit ? limitText(limit.ceilingDbtp, treated) : 'none',
      onToggle: (isOn) => onCommit({ limit: isOn ? usual : null }),
      editor: (
        <LimiterEditor
          limit={limit ?? usual}
          hasLfe={layout.channels.some(({ weight }) => weight === 0)}
          onChange={(next) => onCommit({ limit: next })}
        />
      ),
    };
  },
});

function limitText(ceilingDbtp: number, { limited }: Treated): string {
  const at = `at ${formatLevel(ceilingDbtp, 'dBTP')}`;
  if (typeof limited !== 'object') return limited === 'failed' ? `${at}, reduction not known` : `${at} …`;
  const { greatestDb } = limited.limited.reduction;
  return greatestDb === 0 ? `${at}, not limiting` : `${at}, up to ${formatNumber(greatestDb)} dB`;
}

const LOOK_AHEAD_STEP_MS = 0.1;

function held(value: number, { least, most }: { least: number; most: number }): number {
  return Math.min(most, Math.max(least, value));
}

function LimiterEditor({
  limit,
  hasLfe,
  onChange,
}: {
  limit: Limit;
  hasLfe: boolean;
  onChange: (limit: Limit) => void;
}) {
  const { ceilingDbtp, link, lfe, lookAheadMs, releaseMs } = limit;
  const setLookAhead = (value: number) =>
    onChange({ ...limit, lookAheadMs: held(Math.round(100 * value) / 100, LOOK_AHEADS_MS) });
  return (
    <>
      <DbField
        label="Ceiling"
        valueDb={ceilingDbtp}
        least={-12}
        most={0}
        unit="dBTP"
        onCommit={(value) => onChange({ ...limit, ceilingDbtp: value })}
      />
      <TypedField
        label="Link"
        value={link}
        format={(value) => `${Math.round(100 * value)} %`}
        parse={(text) => {
          const percent = within(parseNumber(text, '%'), 0, 100);
          return percent === undefined ? undefined : percent / 100;
        }}
        onCommit={(value) => onChange({ ...limit, link: value })}
        onStep={(steps) => onChange({ ...limit, link: Math.min(1, Math.max(0, Math.round(100 * link + steps) / 100)) })}
      />
      <TypedField
        label="Look-ahead"
        value={lookAheadMs}
        format={(value) => `${value} ms`}
        parse={(text) => within(parseNumber(text, 'ms'), LOOK_AHEADS_MS.least, LOOK_AHEADS_MS.most)}
        onCommit={(value) => setLookAhead(value)}
        onStep={(steps) => setLookAhead(lookAheadMs + LOOK_AHEAD_STEP_MS * steps)}
      />
      <div className="flex items-center justify-between gap-3 text-[13px]">
        Release
        <Segments
          label="Release"
          value={releaseMs === null ? 'programme' : 'set'}
          options={[
            { value: 'programme', label: 'Automatic' },
            { value: 'set', label: 'Fixed' },
          ]}
          onChange={(value) => onChange({ ...limit, releaseMs: value === 'set' ? 100 : null })}
        />
      </div>
      {releaseMs === null ? null : (
        <TypedField
          label="Release time"
          value={releaseMs}
          format={(value) => `${value} ms`}
          parse={(text) => within(parseNumber(text, 'ms'), RELEASES_MS.least, RELEASES_MS.most)}
          onCommit={(value) => onChange({ ...limit, releaseMs: Math.round(value) })}
          onStep={(steps) => onChange({ ...limit, releaseMs: held(releaseMs + steps, RELEASES_MS) })}
        />
      )}
      {hasLfe ? (
        <div className="flex items-center justify-between gap-3 text-[13px]">
          Low-frequency channel
          <Segments
            label="Low-frequency channel"
            value={lfe}
            options={[
              { value: 'linked', label: 'Linked' },
              { value: 'apart', label: 'Separate' },
            ]}
            onChange={(value) => onChange({ ...limit, lfe: value })}
          />
        </div>
      ) : null}
      <p className="max-w-72 text-xs text-mute">
        Look-ahead is for single peaks: longer is smoother, and costs more loudness. Sustained peaks are seen some 80 ms
        ahead, so that a bass note is not turned down cycle by cycle. True peak is held to{' '}
        {formatLevel(ceilingDbtp, 'dBTP')}; what is heard is the gain reduction that will be written.
      </p>
    </>
  );
}
