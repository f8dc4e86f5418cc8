'use client';

import { ChevronDown, ChevronsDownUp, ChevronsRightLeft } from 'lucide-react';
import { type ReactNode, useEffect, useRef, useState } from 'react';
import { Panel, type PanelImperativeHandle, Separator } from 'react-resizable-panels';
import { classNames } from '@/ui/class-names';
import { FOLDED, type PanelId } from './layouts';
import { deskLayoutMessages as messages } from './messages';

/** Where two panels meet. */
export function Border({ isBeside = false }: { isBeside?: boolean }) {
  return (
    <Separator
      aria-label={messages.border}
      className={classNames(
        'group grid place-items-center rounded-sm focus-visible:-outline-offset-1',
        isBeside ? 'w-2' : 'h-2',
      )}
    >
      <i
        aria-hidden
        className={classNames(
          'rounded-full bg-hair group-hover:bg-stock-3 group-data-[separator=active]:bg-slide-ink group-data-[separator=focus]:bg-slide-ink',
          isBeside ? 'h-8 w-0.5' : 'h-0.5 w-12',
        )}
      />
    </Separator>
  );
}

/** A panel that folds to its name. What is folded goes on to answer to its keys. */
export function DeskPanel({
  id,
  least,
  share,
  isBeside = false,
  keepsPixels = false,
  hasButton = true,
  isAsked = false,
  onFold,
  children,
}: {
  id: PanelId | 'cards';
  /** In pixels. */
  least: number;
  /** In percent, until the page knows its size. */
  share: number;
  isBeside?: boolean;
  /** Whatever becomes of the page: another takes what is left. */
  keepsPixels?: boolean;
  /** Without one, it is folded by its border alone: those within have theirs. */
  hasButton?: boolean;
  /** Something in it is asked for, and has to be seen. */
  isAsked?: boolean;
  /** It was folded or unfolded by hand. */
  onFold: () => void;
  children: ReactNode;
}) {
  const panel = useRef<PanelImperativeHandle>(null);
  const [isFolded, setFolded] = useState(false);
  useEffect(() => {
    if (isAsked && panel.current?.isCollapsed()) panel.current.expand();
  }, [isAsked]);
  const name = messages.names[id];
  const Fold = isBeside ? ChevronsRightLeft : ChevronsDownUp;
  return (
    <Panel
      id={id}
      panelRef={panel}
      minSize={least}
      defaultSize={`${share}%`}
      collapsible
      collapsedSize={FOLDED}
      groupResizeBehavior={keepsPixels ? 'preserve-pixel-size' : 'preserve-relative-size'}
      onResize={({ inPixels }) => setFolded(inPixels > 0 && inPixels < FOLDED + 2)}
      style={{ overflow: 'hidden' }}
    >
      {isFolded ? (
        <button
          type="button"
          aria-expanded={false}
          title={messages.unfold(name)}
          onClick={() => {
            panel.current?.expand();
            onFold();
          }}
          className={classNames(
            'flex h-full w-full cursor-pointer items-center gap-2 rounded-card border border-hair bg-sheet text-xs font-bold hover:border-stock-3',
            isBeside ? 'flex-col py-2 [writing-mode:vertical-rl]' : 'px-4',
          )}
        >
          <ChevronDown size={13} aria-hidden className="text-mute" /> {name}
        </button>
      ) : null}
      <div hidden={isFolded} className={classNames('relative h-full min-h-0', isFolded ? 'hidden' : 'grid')}>
        {children}
        {hasButton ? (
          <button
            type="button"
            aria-expanded
            aria-label={messages.fold(name)}
            title={messages.fold(name)}
            onClick={() => {
              panel.current?.collapse();
              onFold();
            }}
            className="absolute top-1 right-0.5 cursor-pointer rounded-sm p-px text-mute opacity-60 hover:opacity-100 focus-visible:opacity-100"
          >
            <Fold size={12} aria-hidden />
          </button>
        ) : null}
      </div>
    </Panel>
  );
}
