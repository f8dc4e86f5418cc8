'use client';

import { Download, FileCheck } from 'lucide-react';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { isMuchReduction, MUCH_REDUCTION_DB, reductionText } from '@/core/limiter/reduction-words';
import type { Readings } from '@/core/loudness/readings';
import { verdictState } from '@/core/spec/assessment';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { specPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import { formatLevel, formatNumber } from '@/core/units/format';
import { StateMark } from '@/features/common/state-mark';
import type { DeliveryView } from '@/server/jobs/delivery-view';
import { ButtonLink } from '@/ui/button';
import { rowFactsMessages as messages } from './messages';

/** What a limiter takes; more than is usual is marked. */
export function Reduction({ reduction }: { reduction: ReductionFigures }) {
  const isMuch = isMuchReduction(reduction);
  return (
    <span className={isMuch ? 'text-advice' : ''} title={reductionText(reduction)}>
      {isMuch ? <StateMark state="advice" /> : null} {messages.reduction(formatNumber(reduction.greatestDb))}
      {isMuch ? (
        <span className="block font-sans text-xs whitespace-normal">{messages.much(MUCH_REDUCTION_DB)}</span>
      ) : null}
    </span>
  );
}

/** Predicted beside measured, to a hundredth. */
export function Landed({
  predicted,
  measured,
  spec,
}: {
  predicted: Readings;
  measured: Readings | undefined;
  spec: Spec;
}) {
  // Both are in dB of full scale: which of them is a mean and which a peak is said.
  const unit = spec.loudness?.measure === 'rms' ? 'dBFS RMS' : 'LUFS';
  const peakText = spec.peak.measure === 'true' ? 'dBTP' : 'dBFS peak';
  const rows = [
    [messages.loudness, specLoudness(predicted, spec), measured && specLoudness(measured, spec), unit],
    [messages.peak, specPeak(predicted, spec), measured && specPeak(measured, spec), peakText],
  ] as const;
  const text = (level: number | null | undefined) =>
    level === undefined ? '…' : level === null ? '◌' : formatNumber(level, 2);
  return rows.map(([name, from, to, of]) => (
    <span key={name} className="block leading-5 whitespace-nowrap text-mute">
      {text(from)} → <strong className="text-ink">{text(to)}</strong> {of}
    </span>
  ));
}

/** What is known of the bytes, and how often it took to land there. */
export function FileFacts({ delivery: { files, passes, treatment } }: { delivery: DeliveryView }) {
  const [first] = files;
  const ceilingDbtp = treatment.limit?.ceilingDbtp;
  return (
    <>
      <span
        className="block truncate font-mono text-[11px] text-mute"
        title={files.map(({ fileName, sha256 }) => `${fileName} SHA-256 ${sha256}`).join('\n')}
      >
        {messages.sha256} {first?.sha256.slice(0, 16)}…{files.length > 1 ? messages.andMore(files.length - 1) : ''}
      </span>
      {passes.length > 1 ? (
        <span className="block text-[11px] text-mute">
          {messages.writtenTimes(
            passes.length,
            ceilingDbtp === undefined ? '' : messages.ceilingLoweredTo(formatLevel(ceilingDbtp, 'dBTP')),
          )}
        </span>
      ) : null}
    </>
  );
}

/** The certificate, to be read and to be checked by. */
export function CertificateLinks({ delivery: { id, fileName } }: { delivery: DeliveryView }) {
  return (
    <>
      <ButtonLink
        href={`/api/deliveries/${id}/certificate`}
        download
        aria-label={messages.certificateOf(fileName)}
        title={messages.certificatePdf}
      >
        <FileCheck size={16} aria-hidden />
      </ButtonLink>
      <ButtonLink
        kind="inline"
        href={`/api/deliveries/${id}/certificate?as=json`}
        download
        aria-label={messages.jsonCertificateOf(fileName)}
      >
        {messages.json}
      </ButtonLink>
    </>
  );
}

export function Downloads({ delivery: { id, files, written, fileName } }: { delivery: DeliveryView }) {
  const warning = written && verdictState(written.verdict) !== 'inside' ? messages.missesItsSpec : '';
  if (files.length <= 1) {
    return (
      <ButtonLink
        href={`/api/deliveries/${id}/file`}
        download={fileName}
        aria-label={messages.downloadOf(fileName) + warning}
        title={messages.download}
      >
        <Download size={16} aria-hidden />
      </ButtonLink>
    );
  }
  return (
    <span className="flex flex-wrap gap-1">
      {files.map((file, part) => (
        <ButtonLink
          key={file.fileName}
          href={`/api/deliveries/${id}/file?part=${part}`}
          download={file.fileName}
          aria-label={messages.downloadOf(file.fileName) + warning}
        >
          {file.channel ?? `${part + 1}`}
        </ButtonLink>
      ))}
    </span>
  );
}
