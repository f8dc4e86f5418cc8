'use client';

import { type ReactNode, useCallback, useLayoutEffect, useRef, useState, useSyncExternalStore } from 'react';
import { Group, type GroupImperativeHandle, type LayoutChangedMeta, Panel } from 'react-resizable-panels';
import { classNames } from '@/ui/class-names';
import { useDesk, useDeskCommands } from './desk-context';
import { Border, DeskPanel } from './desk-panel';
import { keepDesk } from './kept-desk';
import { BORDER, CARDS, LEAST, type PanelId, type Preset, type Shares, STACKED_SPEC, sharesOf } from './layouts';

/** On narrower pages the panels stand below each other. */
const WIDE = '(min-width: 1024px)';
/** No card is narrower, nor the trace or what stands beside it. */
const LEAST_CARD = 250;
const LEAST_TRACE = 420;
const LEAST_ANALYSIS = 330;

/** What stands in each panel, and what is asked for beside the trace. */
type DeskPanels = Record<PanelId | 'analysis', ReactNode>;

/**
 * The desk's panels, which share the page: borders between them are dragged, and each folds to its name. What was set is remembered
 * on this machine.
 */
export function DeskLayout({ panels }: { panels: DeskPanels }) {
  const isWide = useIsWide();
  const { analysis } = useDesk();
  if (isWide) return <SharedDesk panels={panels} />;
  return (
    <div className="flex flex-col gap-2">
      <div className="h-[max(260px,40vh)]">{panels.trace}</div>
      {analysis.isShown ? <div className="h-80">{panels.analysis}</div> : null}
      {panels.rule}
      <div className="grid gap-2 md:grid-cols-2">
        {CARDS.map((id) => (
          <div key={id} className="grid min-h-54 last:md:col-span-2">
            {panels[id]}
          </div>
        ))}
      </div>
    </div>
  );
}

function SharedDesk({ panels }: { panels: DeskPanels }) {
  const { otherSpecIds, arrangement, setArrangement, setGauge, kept, openStep, placeList } = useDesk();
  const rows = useRef<GroupImperativeHandle>(null);
  const cards = useRef<GroupImperativeHandle>(null);
  const frame = useRef<HTMLDivElement>(null);
  const stacked = otherSpecIds.length;
  const leastRule = LEAST.rule + stacked * STACKED_SPEC;
  const keep = useCallback(() => {
    if (rows.current && cards.current) keepDesk({ rows: rows.current.getLayout(), cards: cards.current.getLayout() });
  }, []);
  /** Asked for once more, it is as at first. */
  const arrange = (asked: Preset) => {
    const preset = arrangement === asked ? 'usual' : asked;
    rows.current?.setLayout(sharesOf(preset, frame.current?.clientHeight ?? 0, stacked));
    setArrangement(preset);
    // One looks at what is heard, and sets by what is calculated.
    setGauge(preset === 'look');
    keep();
  };
  useDeskCommands({ look: () => arrange('look'), set: () => arrange('set') });
  /** Until then nothing is seen of it: nothing moves under the hand. */
  const [isArranged, setArranged] = useState(kept.rows !== undefined);
  // Only the page knows its height; once it is known, the next page comes as this one is.
  useLayoutEffect(() => {
    setArranged(true);
    if (kept.rows) return;
    rows.current?.setLayout(sharesOf('usual', frame.current?.clientHeight ?? 0, 0));
    keep();
  }, [kept, keep]);
  const onChanged = (_: Shares, { isUserInteraction }: LayoutChangedMeta) => {
    if (!isUserInteraction) return;
    setArrangement('own');
    keep();
  };
  return (
    <div
      ref={frame}
      // Nor is it seen before the last panel has come: a page is drawn while it arrives.
      className={classNames(
        'min-h-0 grow max-lg:invisible [&:not(:has(#places))]:invisible',
        !isArranged && 'invisible',
      )}
      style={{ minHeight: LEAST.trace + leastRule + LEAST.cards + 2 * BORDER }}
    >
      <Group id="desk" orientation="vertical" groupRef={rows} defaultLayout={kept.rows} onLayoutChanged={onChanged}>
        <DeskPanel id="trace" least={LEAST.trace} share={52} onFold={keep}>
          <TraceBesideAnalysis trace={panels.trace} analysis={panels.analysis} />
        </DeskPanel>
        <Border />
        <DeskPanel id="rule" least={leastRule} share={22} keepsPixels onFold={keep}>
          {panels.rule}
        </DeskPanel>
        <Border />
        <DeskPanel
          id="cards"
          least={LEAST.cards}
          share={26}
          keepsPixels
          hasButton={false}
          isAsked={openStep !== undefined || placeList === 'options'}
          onFold={keep}
        >
          <Group
            id="desk-cards"
            orientation="horizontal"
            groupRef={cards}
            defaultLayout={kept.cards}
            onLayoutChanged={onChanged}
          >
            <DeskPanel
              id="treatment"
              least={LEAST_CARD}
              share={34}
              isBeside
              isAsked={openStep !== undefined}
              onFold={keep}
            >
              {panels.treatment}
            </DeskPanel>
            <Border isBeside />
            <DeskPanel id="readings" least={LEAST_CARD} share={33} isBeside onFold={keep}>
              {panels.readings}
            </DeskPanel>
            <Border isBeside />
            <DeskPanel
              id="places"
              least={LEAST_CARD}
              share={33}
              isBeside
              isAsked={placeList === 'options'}
              onFold={keep}
            >
              {panels.places}
            </DeskPanel>
          </Group>
        </DeskPanel>
      </Group>
    </div>
  );
}

/** The trace, and what is asked for beside it. */
function TraceBesideAnalysis({ trace, analysis }: { trace: ReactNode; analysis: ReactNode }) {
  const { analysis: asked, kept } = useDesk();
  return (
    <Group
      id="desk-trace"
      orientation="horizontal"
      defaultLayout={kept.beside}
      onLayoutChanged={(beside, { isUserInteraction }) => isUserInteraction && keepDesk({ beside })}
    >
      <Panel id="trace-alone" minSize={LEAST_TRACE} style={{ overflow: 'hidden' }}>
        <div className="grid h-full min-h-0">{trace}</div>
      </Panel>
      {asked.isShown ? (
        <>
          <Border isBeside />
          <Panel id="analysis" minSize={LEAST_ANALYSIS} defaultSize="34%" style={{ overflow: 'hidden' }}>
            {analysis}
          </Panel>
        </>
      ) : null}
    </Group>
  );
}

function useIsWide(): boolean {
  return useSyncExternalStore(
    (changed) => {
      const wide = window.matchMedia(WIDE);
      wide.addEventListener('change', changed);
      return () => wide.removeEventListener('change', changed);
    },
    () => window.matchMedia(WIDE).matches,
    () => true,
  );
}
