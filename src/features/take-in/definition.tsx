'use client';

import { useEffect, useState } from 'react';
import type { OutlineNode } from '@/core/adm/outline';
import { outlineDetails } from '@/core/adm/outline-words';
import { RENDER_LAYOUTS, type RenderLayout } from '@/core/adm/render-layouts';
import type { ErrorRecord } from '@/core/errors/app-error';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { useAct } from '@/features/common/use-act';
import type { DefinitionView } from '@/server/take-in/renderings';
import { Button } from '@/ui/button';
import { definition, takeRenderings } from './actions';
import { fileDetailsMessages, definitionMessages as messages } from './messages';

/** What the audio definition of a file describes, and takes renderings of it in as programmes of their own. */
export function Definition({ programmeId, onTaken }: { programmeId: string; onTaken: () => void }) {
  const [view, setView] = useState<DefinitionView>();
  const [error, setError] = useState<ErrorRecord>();
  useEffect(() => {
    let isWanted = true;
    void definition(programmeId).then((result) => {
      if (!isWanted) return;
      if (result.ok) setView(result.value);
      else setError(result.error);
    });
    return () => {
      isWanted = false;
    };
  }, [programmeId]);
  if (error) return <ErrorNotice error={error} />;
  if (!view) return <p className="text-mute">{fileDetailsMessages.reading}</p>;
  return (
    <>
      <Tree nodes={view.outline} />
      <RenderingsForm programmeId={programmeId} programmes={view.programmes} onTaken={onTaken} />
    </>
  );
}

function Tree({ nodes }: { nodes: readonly OutlineNode[] }) {
  return (
    <ul className="[&_ul]:ml-2 [&_ul]:border-l [&_ul]:border-hair [&_ul]:pl-3">
      {nodes.map((node) => (
        <li key={node.id}>
          <span className="font-bold">{node.name}</span>{' '}
          <span className="text-mute">{outlineDetails(node).join(' · ')}</span>
          {node.children.length > 0 ? <Tree nodes={node.children} /> : null}
        </li>
      ))}
    </ul>
  );
}

function RenderingsForm({
  programmeId,
  programmes,
  onTaken,
}: {
  programmeId: string;
  programmes: DefinitionView['programmes'];
  onTaken: () => void;
}) {
  const [chosen, setChosen] = useState<readonly { audioProgramme: string | null; layout: RenderLayout }[]>([]);
  const { act, isBusy, error } = useAct(useChanged());
  const isChosen = (id: string | null, layout: RenderLayout) =>
    chosen.some((own) => own.audioProgramme === id && own.layout === layout);
  const choose = (id: string | null, layout: RenderLayout) =>
    setChosen(
      isChosen(id, layout)
        ? chosen.filter((own) => own.audioProgramme !== id || own.layout !== layout)
        : [...chosen, { audioProgramme: id, layout }],
    );
  return (
    <form
      className="mt-3 flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (chosen.length > 0) void act(() => takeRenderings(programmeId, [...chosen]), onTaken);
      }}
    >
      <p className="text-xs text-mute">{messages.explained}</p>
      {programmes.map(({ id, name, notRendered }) => (
        <fieldset key={id} disabled={notRendered !== null} className="flex flex-wrap items-center gap-x-4 gap-y-1">
          <legend className="float-left w-64 truncate font-semibold" title={name}>
            {id === null ? messages.forWhole : messages.for(name)}
          </legend>
          {notRendered === null ? (
            RENDER_LAYOUTS.map((layout) => (
              <label key={layout} className="flex items-center gap-1.5">
                <input type="checkbox" checked={isChosen(id, layout)} onChange={() => choose(id, layout)} />
                {layout}
              </label>
            ))
          ) : (
            <p className="basis-full text-mute">{messages.notRendered(notRendered)}</p>
          )}
        </fieldset>
      ))}
      <Button type="submit" disabled={isBusy || chosen.length === 0} className="self-start">
        {messages.take(chosen.length)}
      </Button>
      <ErrorNotice error={error} />
    </form>
  );
}
