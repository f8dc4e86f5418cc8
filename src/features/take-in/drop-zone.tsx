'use client';

import { type ReactNode, useRef } from 'react';
import { Button } from '@/ui/button';
import { DropTarget } from './drop-target';
import { dropZoneMessages as messages } from './messages';
import { useUploads } from './uploads';

/** Opens the file chooser; several files at once. */
export function AddFilesButton({
  kind = 'bar',
  children = messages.addFiles,
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
        aria-label={messages.filesToTakeIn}
        onChange={(event) => {
          add(event.target.files ?? []);
          event.target.value = '';
        }}
      />
    </>
  );
}

/** Takes what is dropped anywhere on a page of the job. */
export function DropAnywhere() {
  const { add } = useUploads();
  return <DropTarget text={messages.dropHere} onFiles={add} />;
}
