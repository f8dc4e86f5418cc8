'use client';

import { ChevronRight, Folder } from 'lucide-react';
import { useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { formatBytes } from '@/core/units/format';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import type { MediaFolder } from '@/server/take-in/media';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { browseMedia, takeInMedia } from './actions';
import { mediaBrowserMessages as messages } from './messages';

/** Files of the machine that Opsimeter runs on, taken in where they lie. */
export function MediaBrowser({ jobId, roots }: { jobId: string; roots: readonly string[] }) {
  const changed = useChanged();
  const [isOpen, setIsOpen] = useState(false);
  const [root, setRoot] = useState(0);
  const [folder, setFolder] = useState<MediaFolder>();
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [reading, setReading] = useState<string>();
  const [error, setError] = useState<ErrorRecord>();

  const show = async (nextRoot: number, path: string) => {
    const result = await browseMedia(nextRoot, path);
    setError(result.ok ? undefined : result.error);
    if (!result.ok) return;
    setRoot(nextRoot);
    setFolder(result.value);
    setChosen(new Set());
  };
  const toggle = (name: string) => {
    const next = new Set(chosen);
    if (!next.delete(name)) next.add(name);
    setChosen(next);
  };
  const takeIn = async () => {
    if (!folder) return;
    for (const name of chosen) {
      setReading(name);
      const result = await takeInMedia(jobId, root, folder.path, name);
      if (result.ok) continue;
      setError(result.error);
      setReading(undefined);
      void changed();
      return;
    }
    setReading(undefined);
    setIsOpen(false);
    void changed();
  };
  const steps = folder?.path ? folder.path.split('/') : [];
  return (
    <Dialog
      trigger={<Button>{messages.fromThisMachine}</Button>}
      title={messages.takeInFromThisMachine}
      description={messages.whatItDoes}
      isOpen={isOpen}
      onOpenChange={(next) => {
        setIsOpen(next);
        if (next) void show(root, folder?.path ?? '');
      }}
    >
      <nav aria-label={messages.folder} className="flex flex-wrap items-center gap-1 text-sm">
        {roots.map((name, i) => (
          <Button key={name} kind={i === root ? 'plain' : 'quiet'} onClick={() => void show(i, '')}>
            {name}
          </Button>
        ))}
        {steps.map((step, i) => (
          <span key={steps.slice(0, i + 1).join('/')} className="flex items-center">
            <ChevronRight size={14} aria-hidden />
            <Button kind="quiet" onClick={() => void show(root, steps.slice(0, i + 1).join('/'))}>
              {step}
            </Button>
          </span>
        ))}
      </nav>
      <ErrorNotice error={error} />
      <ul className="min-h-40 grow overflow-y-auto rounded-control border border-hair">
        {folder?.folders.map((name) => (
          <li key={name} className="border-b border-hair last:border-0">
            <button
              type="button"
              onClick={() => void show(root, folder.path ? `${folder.path}/${name}` : name)}
              className="flex w-full cursor-pointer items-center gap-2 px-3 py-1.5 text-left text-sm hover:bg-stock-1"
            >
              <Folder size={16} aria-hidden /> {name}
            </button>
          </li>
        ))}
        {folder?.files.map(({ name, sizeBytes }) => (
          <li key={name} className="border-b border-hair last:border-0">
            <label className="flex cursor-pointer items-center gap-2 px-3 py-1.5 text-sm hover:bg-stock-1">
              <input type="checkbox" checked={chosen.has(name)} onChange={() => toggle(name)} />
              <span className="grow truncate">{name}</span>
              <span className="font-mono text-xs text-mute">{formatBytes(sizeBytes)}</span>
            </label>
          </li>
        ))}
        {folder && folder.folders.length + folder.files.length === 0 ? (
          <li className="px-3 py-2 text-sm text-mute">{messages.thisFolderIsEmpty}</li>
        ) : null}
      </ul>
      <footer className="flex items-center justify-between gap-3">
        <p role="status" className="truncate text-xs text-mute">
          {reading ? messages.reading(reading) : ''}
        </p>
        <Button
          kind="primary"
          disabled={reading !== undefined}
          whyNot={chosen.size === 0 ? messages.chooseFirst : null}
          onClick={() => void takeIn()}
        >
          {chosen.size === 1 ? messages.takeInOne : messages.takeInMany(chosen.size)}
        </Button>
      </footer>
    </Dialog>
  );
}
