'use client';

import { formatBytes } from '@/core/units/format';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { Notice } from '@/ui/notice';
import { ProgressBar } from '@/ui/progress-bar';
import { uploadListMessages as messages } from './messages';
import { type Upload, useUploads } from './uploads';

/** Files on their way, and those that were not taken in. Nothing where there are none. */
export function UploadList() {
  const { uploads, unfinished, retry, cancel, dismiss, forget } = useUploads();
  if (uploads.length + unfinished.length === 0) return null;
  const moving = uploads.filter(({ state }) => state === 'waits' || state === 'sending');
  const total = moving.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0);
  return (
    <Card
      title={messages.arriving}
      remark={moving.length > 1 ? `${moving.length} files · ${formatBytes(total)}` : null}
      className="mx-4 mt-3 flex max-h-[40vh] flex-col gap-2 overflow-y-auto"
    >
      <ul className="flex flex-col gap-2">
        {unfinished.map(({ key, fileName, sizeBytes, isResumable }) => (
          <li key={key} className="flex items-center justify-between gap-4 text-sm text-advice">
            <span>
              {messages.wasInterrupted(
                fileName,
                formatBytes(sizeBytes),
                isResumable ? messages.dropToResume : messages.drop,
              )}
            </span>
            <Button onClick={() => forget(key)}>{messages.dismiss}</Button>
          </li>
        ))}
        {inOrder(uploads).map((upload) => (
          <li key={upload.id}>
            {upload.state === 'failed' ? (
              <Notice onClose={() => dismiss(upload.id)}>
                {upload.message}{' '}
                <button
                  type="button"
                  onClick={() => retry(upload.id)}
                  className="cursor-pointer font-semibold underline"
                >
                  {messages.tryAgain}
                </button>
              </Notice>
            ) : upload.state === 'known' ? (
              <p className="flex items-center justify-between gap-4 text-sm text-advice">
                <span>○ {upload.message}</span>
                <Button onClick={() => dismiss(upload.id)}>{messages.close}</Button>
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

/** What somebody has to look at stands first: a long list is scrolled, and would hide it. */
function inOrder(uploads: readonly Upload[]): Upload[] {
  const rank = ({ state }: Upload) => (state === 'failed' ? 0 : state === 'known' ? 1 : 2);
  return [...uploads].sort((a, b) => rank(a) - rank(b));
}

function UploadRow({ upload, onCancel }: { upload: Upload; onCancel: () => void }) {
  const { fileName, sizeBytes, sentBytes, startedMs, firstSentBytes, state } = upload;
  const seconds = (performance.now() - startedMs) / 1000;
  const bytesPerSecond = Math.round((sentBytes - (firstSentBytes ?? 0)) / Math.max(0.2, seconds));
  const isStored = state === 'sending' && sentBytes >= sizeBytes && sizeBytes > 0;
  return (
    <div className="grid grid-cols-[minmax(8rem,20rem)_1fr_15rem_auto] items-center gap-4">
      <span className="truncate font-semibold">{fileName}</span>
      <ProgressBar label={messages.takingIn(fileName)} fraction={sizeBytes > 0 ? sentBytes / sizeBytes : 0} />
      <span className="text-right font-mono text-xs text-mute">
        {state === 'waits'
          ? messages.waits(formatBytes(sizeBytes))
          : isStored
            ? messages.storing
            : messages.sent(formatBytes(sentBytes), formatBytes(sizeBytes), formatBytes(bytesPerSecond))}
      </span>
      <Button onClick={onCancel}>{messages.cancel}</Button>
    </div>
  );
}
