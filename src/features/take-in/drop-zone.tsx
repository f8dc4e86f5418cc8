'use client';

import { type FileWithPath, fromEvent } from 'file-selector';
import { type ReactNode, useEffect, useRef, useState } from 'react';
import { Button } from '@/ui/button';
import { useUploads } from './uploads';

/** Opens the file chooser; several files at once. */
export function AddFilesButton({
  kind = 'bar',
  children = 'Add files',
}: {
  kind?: 'bar' | 'primary' | 'plain';
  children?: ReactNode;
}) {
  const { add } = useUploads();
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button kind={kind} onClick={() => input.current?.click()}>
        {children}
      </Button>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label="Files to take in"
        onChange={(event) => {
          add(event.target.files ?? []);
          event.target.value = '';
        }}
      />
    </>
  );
}

/** Takes files and folders dropped anywhere on the page, and says so while they hover. */
export function DropAnywhere() {
  const { add } = useUploads();
  const [isOver, setIsOver] = useState(false);
  useEffect(() => {
    const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;
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
        add(dropped.filter((item): item is FileWithPath => item instanceof File)),
      );
    };
    window.addEventListener('dragover', over);
    window.addEventListener('dragleave', leave);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('drop', drop);
    };
  }, [add]);
  if (!isOver) return null;
  return (
    <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded-card border-2 border-dashed border-slide-ink bg-slide-1/85 text-xl font-bold text-slide-ink">
      Let go to take the files in
    </div>
  );
}
