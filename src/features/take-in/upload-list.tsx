'use client';

import { formatBytes } from '@/core/units/format';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { Notice } from '@/ui/notice';
import { ProgressBar } from '@/ui/progress-bar';
import { type Upload, useUploads } from './uploads';

/** Files on their way, and those that were not taken in. Nothing where there are none. */
export function UploadList() {
  const { uploads, cancel, dismiss } = useUploads();
  if (uploads.length === 0) return null;
  return (
    <Card title="Arriving" className="mx-4 mt-3 flex flex-col gap-2">
      <ul className="flex flex-col gap-2">
        {uploads.map((upload) => (
          <li key={upload.id}>
            {upload.state === 'failed' ? (
              <Notice onClose={() => dismiss(upload.id)}>{upload.message}</Notice>
            ) : upload.state === 'known' ? (
              <p className="flex items-center justify-between gap-4 text-sm text-advice">
                <span>○ {upload.message}</span>
                <Button onClick={() => dismiss(upload.id)}>Close</Button>
              </p>
            ) : (
              <UploadRow upload={upload} onCancel={() => cancel(upload.id)} />
            )}
          </li>
        ))}
      </ul>
    </Card>
  );
}

function UploadRow({ upload, onCancel }: { upload: Upload; onCancel: () => void }) {
  const { fileName, sizeBytes, sentBytes, startedMs, state } = upload;
  const seconds = (performance.now() - startedMs) / 1000;
  const isStored = state === 'sending' && sentBytes >= sizeBytes && sizeBytes > 0;
  return (
    <div className="grid grid-cols-[minmax(8rem,20rem)_1fr_15rem_auto] items-center gap-4">
      <span className="truncate font-semibold">{fileName}</span>
      <ProgressBar label={`Taking in ${fileName}`} fraction={sizeBytes > 0 ? sentBytes / sizeBytes : 0} />
      <span className="text-right font-mono text-xs text-mute">
        {state === 'waits'
          ? `waits · ${formatBytes(sizeBytes)}`
          : isStored
            ? 'storing …'
            : `${formatBytes(sentBytes)} of ${formatBytes(sizeBytes)} · ${formatBytes(Math.round(sentBytes / Math.max(0.2, seconds)))}/s`}
      </span>
      <Button onClick={onCancel}>Cancel</Button>
    </div>
  );
}
