import { Download } from 'lucide-react';
import { verdictPhrases, verdictState } from '@/core/spec/assessment';
import { formatBytes } from '@/core/units/format';
import { StateMark } from '@/features/common/state-mark';
import { describeContents } from '@/formats/audio-format';
import type { DeliveryView } from '@/server/jobs/delivery-view';
import { ButtonLink } from '@/ui/button';
import { Card } from '@/ui/card';
import { earlierFilesMessages as messages } from './messages';

/** Files that no row speaks of any more: written before, or thrown away. */
export function EarlierFiles({ files }: { files: readonly DeliveryView[] }) {
  if (files.length === 0) return null;
  return (
    <Card title={messages.earlierFiles} remark={messages.whatTheyAre}>
      <table aria-label={messages.earlierFiles} className="w-full text-left text-sm">
        <tbody>
          {files.map((file) => (
            <EarlierFile key={file.id} file={file} />
          ))}
        </tbody>
      </table>
    </Card>
  );
}

function EarlierFile({ file: { id, fileName, spec, written, isDiscarded, files } }: { file: DeliveryView }) {
  if (!written) return null;
  const missed = verdictPhrases(written.verdict).filter(({ state }) => state !== 'inside');
  return (
    <tr className="border-t border-hair first:border-0">
      <td className="max-w-80 truncate py-1.5 pr-4" title={fileName}>
        {fileName}
      </td>
      <td className="py-1.5 pr-4 text-xs text-mute">{spec.name}</td>
      <td className="py-1.5 pr-4 text-xs text-mute">{describeContents(written.format)}</td>
      <td className="py-1.5 pr-4 font-mono text-xs">{formatBytes(written.sizeBytes)}</td>
      <td className="py-1.5 pr-4">
        <StateMark state={verdictState(written.verdict)} />{' '}
        {missed.length === 0 ? messages.verified : missed.map(({ text }) => text).join('; ')}
      </td>
      <td className="py-1.5 text-right">
        {isDiscarded ? (
          <span className="text-xs text-mute">{messages.discarded}</span>
        ) : (
          <span className="flex justify-end gap-1">
            {files.map((own, part) => (
              <ButtonLink
                key={own.fileName}
                kind="quiet"
                href={`/api/deliveries/${id}/file?part=${part}`}
                download={own.fileName}
                aria-label={messages.download(own.fileName)}
              >
                <Download size={16} aria-hidden />
              </ButtonLink>
            ))}
          </span>
        )}
      </td>
    </tr>
  );
}
