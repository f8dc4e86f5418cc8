'use client';

import { useState } from 'react';
import { DEFAULT_TEMPLATE, fileStem, NAME_FIELDS, unknownFields } from '@/core/delivery/file-name';
import type { Act } from '@/features/common/use-act';
import type { RowView } from '@/server/deliveries/sheet';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field } from '@/ui/field';
import { renameDeliveries } from './actions';

const EXAMPLE = {
  title: 'Nightfall',
  spec: 'ebu-r128',
  rate: 48_000,
  version: 3,
  job: 'Season',
  format: '24bit',
  depth: '24bit',
  track: 1,
};

/** How a job's files are named, with an example that follows what is typed. */
export function NameTemplate({
  jobId,
  template,
  example,
  act,
}: {
  jobId: string;
  template: string;
  /** Whose name is shown. */
  example: RowView | undefined;
  act: Act;
}) {
  const [typed, setTyped] = useState<string>();
  const text = typed ?? template;
  const unknown = unknownFields(text);
  const name = (own: string) => `${fileStem(own, example?.nameFields ?? EXAMPLE)}.${example?.extension ?? 'wav'}`;
  const close = () => setTyped(undefined);
  return (
    <Dialog
      trigger={
        <button type="button" className="min-w-0 cursor-pointer truncate text-sm text-mute hover:underline">
          named <span className="font-mono text-xs text-ink">{template}</span>
        </button>
      }
      title="File names"
      description="For this job, from now on. Written files keep their names; nothing is overwritten."
      isOpen={typed !== undefined}
      onOpenChange={(isOpen) => setTyped(isOpen ? template : undefined)}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          const chosen = text.trim();
          close();
          act(() => renameDeliveries(jobId, chosen === DEFAULT_TEMPLATE ? null : chosen));
        }}
      >
        <Field
          label="Template"
          value={text}
          required
          maxLength={200}
          spellCheck={false}
          onChange={(event) => setTyped(event.target.value)}
        />
        <p className="flex flex-wrap gap-1.5 text-xs text-mute">
          {NAME_FIELDS.map((field) => (
            <button
              key={field}
              type="button"
              className="cursor-pointer rounded-sm border border-hair px-1.5 font-mono hover:border-stock-3"
              onClick={() => setTyped(`${text}{${field}}`)}
            >
              {`{${field}}`}
            </button>
          ))}
        </p>
        <p className="text-sm">
          Example: <output className="font-mono text-xs font-semibold">{name(text)}</output>
        </p>
        {unknown.length > 0 ? (
          <p role="alert" className="text-sm text-breach">
            ▲ {unknown.map((own) => `{${own}}`).join(', ')} {unknown.length === 1 ? 'is' : 'are'} unknown, and left out.
          </p>
        ) : null}
        <span className="flex justify-end gap-2">
          <Button onClick={() => setTyped(DEFAULT_TEMPLATE)}>Reset</Button>
          <Button kind="primary" type="submit">
            Save
          </Button>
        </span>
      </form>
    </Dialog>
  );
}
