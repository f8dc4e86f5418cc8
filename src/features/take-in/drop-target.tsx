'use client';

import { type FileWithPath, fromEvent } from 'file-selector';
import { useEffect, useState } from 'react';
import { takeEarlyDrops } from './early-drops';
import { dropTargetMessages as messages } from './messages';

/** Takes files and folders dropped anywhere on the page, and says so while they hover. */
export function DropTarget({ text, onFiles }: { text: string; onFiles: (files: File[]) => void }) {
  const [isOver, setIsOver] = useState(false);
  useEffect(() => {
    const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes(messages.files) ?? false;
    const over = (event: DragEvent) => {
      if (!hasFiles(event)) return;
      event.preventDefault();
      setIsOver(true);
    };
    const leave = (event: DragEvent) => {
      if (event.relatedTarget === null) setIsOver(false);
    };
    const drop = (event: DragEvent) => {
      if (!hasFiles(event)) return;
      event.preventDefault();
      setIsOver(false);
      // Folders are walked through; what a system hides in them is left out.
      void fromEvent(event).then((dropped) =>
        onFiles(dropped.filter((item): item is FileWithPath => item instanceof File)),
      );
    };
    const early = takeEarlyDrops();
    if (early.length > 0) onFiles(early);
    window.addEventListener('dragover', over);
    window.addEventListener('dragleave', leave);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('drop', drop);
    };
  }, [onFiles]);
  if (!isOver) return null;
  return (
    <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded-card border-2 border-dashed border-slide-ink bg-slide-1/85 text-xl font-bold text-slide-ink">
      {text}
    </div>
  );
}
