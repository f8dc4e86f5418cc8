'use client';

import type { DeliveryFormatInput } from '@/core/delivery/format';
import { FILE_FORMATS, type FileKind, isLossy } from '@/core/file-formats/file-formats';
import { formatSampleRate } from '@/core/units/format';
import { Choice } from '@/ui/choice';
import { writeRecordMessages as messages } from './messages';

const RATES_HZ = [44_100, 48_000, 88_200, 96_000];
const AS_PROGRAMMES = 'as-programmes';

/** What a line-up is written as: kind, rate, and depth or bit rate. */
export function FormatChoices({
  kinds,
  canBeMono = true,
  format,
  onChange,
}: {
  kinds: readonly FileKind[];
  canBeMono?: boolean;
  format: DeliveryFormatInput;
  onChange: (format: DeliveryFormatInput) => void;
}) {
  const { kind, sampleRateHz = null, bitDepth = null, bitRateKbps = null } = format;
  const { depths, ratesHz, modes, bitRatesKbps, defaultKbps } = FILE_FORMATS[kind];
  const [mode] = modes;
  const known = RATES_HZ.filter((rate) => ratesHz === null || ratesHz.includes(rate));
  return (
    <>
      {kinds.length > 1 ? (
        <Choice
          label={messages.file}
          value={kind}
          options={kinds.map((own) => ({
            value: own,
            label: FILE_FORMATS[own].name,
            detail: isLossy(own) ? 'lossy' : '',
          }))}
          onChange={(next) => {
            const to = FILE_FORMATS[next as FileKind];
            const isKept = sampleRateHz === null || to.ratesHz === null || to.ratesHz.includes(sampleRateHz);
            onChange({
              kind: next as FileKind,
              arrangement: format.arrangement,
              sampleRateHz: isKept ? sampleRateHz : (to.ratesHz?.[0] ?? null),
            });
          }}
        />
      ) : null}
      <Choice
        label={messages.rate}
        value={sampleRateHz === null ? AS_PROGRAMMES : String(sampleRateHz)}
        options={[
          { value: AS_PROGRAMMES, label: messages.asProgrammes },
          ...known.map((rate) => ({ value: String(rate), label: formatSampleRate(rate) })),
        ]}
        onChange={(next) => onChange({ ...format, sampleRateHz: next === AS_PROGRAMMES ? null : Number(next) })}
      />
      {depths.length > 0 ? (
        <Choice
          label={messages.depth}
          value={String(bitDepth ?? depths[0])}
          options={depths.map((depth) => ({ value: String(depth), label: messages.bits(depth) }))}
          onChange={(next) => onChange({ ...format, bitDepth: Number(next) as 16 | 24 | 32 })}
        />
      ) : null}
      {canBeMono ? (
        <label className="flex items-center gap-2 text-sm">
          <input
            type="checkbox"
            checked={format.arrangement === 'mono'}
            onChange={(event) => onChange({ ...format, arrangement: event.target.checked ? 'mono' : 'interleaved' })}
          />
          {messages.mono}
        </label>
      ) : null}
      {mode ? (
        <Choice
          label={messages.bitRate}
          value={String(bitRateKbps ?? defaultKbps)}
          options={(bitRatesKbps[mode] ?? []).map((kbps) => ({ value: String(kbps), label: messages.kbps(kbps) }))}
          onChange={(next) => onChange({ ...format, bitRateKbps: Number(next) })}
        />
      ) : null}
    </>
  );
}
