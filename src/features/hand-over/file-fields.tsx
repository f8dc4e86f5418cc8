'use client';

import { type Arrangement, type DeliveryFormat, type ResolvedFormat, rates } from '@/core/delivery/format';
import { FILE_FORMATS, FILE_KINDS, type FileKind, isLossy } from '@/core/file-formats/file-formats';
import type { Dither } from '@/core/treatment/steps/dither';
import { formatSampleRate } from '@/core/units/format';
import { Choice } from '@/ui/choice';
import { Segments, Switch } from '@/ui/segments';
import { fileFieldsMessages as messages } from './messages';

const RATES_HZ = [44_100, 48_000, 88_200, 96_000, 192_000, 32_000, 24_000];
const DITHER_NAMES: Readonly<Record<Dither, string>> = {
  none: 'none',
  rpdf: 'rectangular',
  tpdf: 'triangular',
  shaped: 'noise-shaped',
};

/** What file a delivery is: kind, channels, rate, and its depth or bit rate. Pairs of label and controls, for a grid of two columns. */
export function FileFields({
  format,
  resolved,
  sourceRateHz,
  onChange: set,
}: {
  format: DeliveryFormat;
  /** As it is for the first of the programmes. */
  resolved: ResolvedFormat;
  /** Of that programme, treated. */
  sourceRateHz: number;
  onChange: (change: Partial<DeliveryFormat>) => void;
}) {
  const facts = FILE_FORMATS[format.kind];
  return (
    <>
      <span className="text-mute">{messages.file}</span>
      <span className="flex flex-wrap items-center gap-2">
        <Choice
          label={messages.file}
          value={format.kind}
          options={FILE_KINDS.map((kind) => ({
            value: kind,
            label: FILE_FORMATS[kind].name,
            detail: isLossy(kind) ? 'lossy' : '',
          }))}
          onChange={(kind) =>
            set({ kind: kind as FileKind, bitDepth: null, mode: null, bitRateKbps: null, dither: null })
          }
        />
        <Segments<Arrangement>
          label={messages.channels}
          value={format.arrangement}
          options={[
            { value: 'interleaved', label: messages.oneFile },
            { value: 'split', label: 'split', hint: messages.splitHint },
            { value: 'mono', label: 'mono', hint: messages.monoSumHint },
          ]}
          onChange={(arrangement) => set({ arrangement })}
        />
      </span>

      <span className="text-mute">{messages.rate}</span>
      <span>
        <Choice
          label={messages.rate}
          value={String(format.sampleRateHz ?? 0)}
          options={[
            { value: '0', label: `unchanged, ${formatSampleRate(sourceRateHz)}` },
            ...RATES_HZ.map((rate) => ({ value: String(rate), label: formatSampleRate(rate) })),
          ]}
          onChange={(rate) => set({ sampleRateHz: rate === '0' ? null : Number(rate) })}
        />
      </span>

      {facts.modes.length > 0 ? (
        <>
          <span className="text-mute">{messages.bitRate}</span>
          <span className="flex flex-wrap items-center gap-2">
            {facts.modes.length > 1 ? (
              <Segments
                label={messages.mode}
                value={resolved.mode ?? 'constant'}
                options={facts.modes.map((mode) => ({ value: mode, label: mode }))}
                onChange={(mode) => set({ mode, bitRateKbps: null })}
              />
            ) : (
              <span>{facts.modes[0]}</span>
            )}
            <Choice
              label={messages.bitRate}
              value={String(resolved.bitRateKbps)}
              options={rates(format.kind, resolved.mode ?? 'constant').map((kbps) => ({
                value: String(kbps),
                label: `${kbps} kbit/s`,
              }))}
              onChange={(kbps) => set({ bitRateKbps: Number(kbps), mode: resolved.mode })}
            />
          </span>
        </>
      ) : (
        <>
          <span className="text-mute">{messages.depth}</span>
          <span className="flex flex-wrap items-center gap-2">
            <Segments
              label={messages.depth}
              value={String(resolved.bitDepth)}
              options={([16, 24, 32] as const)
                .filter((bits) => facts.depths.includes(bits))
                .map((bits) => ({ value: String(bits), label: bits === 32 ? '32 float' : `${bits} bit` }))}
              onChange={(bits) => set({ bitDepth: Number(bits) as 16 | 24 | 32 })}
            />
            {resolved.bitDepth === 32 ? null : (
              <>
                <span className="pl-2 text-mute">{messages.dither}</span>
                <Choice
                  label={messages.ditherKind}
                  value={format.dither ?? 'usual'}
                  options={[
                    {
                      value: 'usual',
                      label: resolved.bitDepth === 16 ? messages.defaultTriangular : messages.defaultNone,
                    },
                    ...Object.entries(DITHER_NAMES).map(([value, label]) => ({ value, label })),
                  ]}
                  onChange={(dither) => set({ dither: dither === 'usual' ? null : (dither as Dither) })}
                />
                <Switch
                  isOn={format.isDitherSilenced}
                  hint={messages.noDitherInSilenceHint}
                  onChange={(isDitherSilenced) => set({ isDitherSilenced })}
                >
                  {messages.noDitherInSilence}
                </Switch>
              </>
            )}
          </span>
        </>
      )}
    </>
  );
}
