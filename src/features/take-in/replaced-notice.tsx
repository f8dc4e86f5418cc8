'use client';

import type { Act } from '@/features/common/use-act';
import type { ReplacedSettings } from '@/server/jobs/replace';
import { Button } from '@/ui/button';
import { undoReplace } from './actions';
import { replaceMessages as messages } from './messages';

/** A programme that has a new version, and what was set of it before. */
export interface Replaced {
  programmeId: string;
  byId: string;
  title: string;
  settings: ReplacedSettings;
}

/** Says what was replaced, and takes it back. */
export function ReplacedNotice({
  replaced: { programmeId, byId, title, settings },
  act,
  onClose,
}: {
  replaced: Replaced;
  act: Act;
  onClose: () => void;
}) {
  return (
    <p role="status" className="flex items-center gap-3 rounded-card border border-hair bg-sheet px-4 py-2 text-sm">
      <span className="grow">{messages.replaced(title)}</span>
      <Button onClick={() => void act(() => undoReplace(programmeId, byId, settings), onClose)}>{messages.undo}</Button>
      <Button kind="inline" onClick={onClose}>
        {messages.close}
      </Button>
    </p>
  );
}
