'use client';

import { X } from 'lucide-react';
import type { ComponentType } from 'react';
import type { Colours } from '@/features/common/colours';
import { useColours } from '@/features/common/use-colours';
import { useSize } from '@/features/common/use-size';
import { Switch } from '@/ui/segments';
import { useDesk } from '../desk/desk-context';
import { LimiterView } from './limiter-view';
import { analysisPanelMessages as messages } from './messages';
import { PeaksView } from './peaks-view';
import { SpectrumView } from './spectrum-view';
import { StereoView } from './stereo-view';
import { ThirdsView } from './thirds-view';
import { ANALYSIS_VIEWS, type AnalysisView, LEAST_VIEW, pressView, viewsThatFit } from './views';

const VIEWS: Record<AnalysisView, ComponentType<{ colours: Colours }>> = {
  spectrum: SpectrumView,
  stereo: StereoView,
  peaks: PeaksView,
  thirds: ThirdsView,
  limiter: LimiterView,
};

/** Views of the sound, as many beside each other as there is room for. */
export function AnalysisPanel() {
  const { analysis, setAnalysis, keyMap } = useDesk();
  const colours = useColours();
  const [body, size] = useSize<HTMLDivElement>();
  return (
    <section
      aria-label={messages.analysis}
      className="flex h-full min-h-0 min-w-0 flex-col gap-1 rounded-card border border-hair bg-sheet px-3 py-1.5"
    >
      <div className="flex items-center gap-1">
        <h2 className="sr-only">{messages.analysis}</h2>
        <fieldset aria-label={messages.analysis} className="flex min-w-0 grow flex-wrap gap-1">
          {ANALYSIS_VIEWS.map((view) => (
            <Switch
              key={view}
              compact
              hint={messages.views[view].question}
              isOn={analysis.open.includes(view)}
              onChange={() => setAnalysis({ isShown: true, open: pressView(analysis.open, view, viewsThatFit(size)) })}
            >
              {messages.views[view].name}
            </Switch>
          ))}
        </fieldset>
        <button
          type="button"
          aria-label={messages.close}
          title={messages.close}
          aria-keyshortcuts={keyMap.keys.analysis}
          onClick={() => setAnalysis({ ...analysis, isShown: false })}
          className="mr-4 cursor-pointer rounded-sm p-0.5 text-mute hover:text-ink"
        >
          <X size={14} aria-hidden />
        </button>
      </div>
      <div
        ref={body}
        className="grid min-h-0 grow auto-rows-[minmax(0,1fr)] gap-x-4 gap-y-2 overflow-y-auto"
        style={{ gridTemplateColumns: `repeat(auto-fit, minmax(min(100%, ${LEAST_VIEW.width}px), 1fr))` }}
      >
        {analysis.open.length === 0 ? <p className="pt-3 text-xs text-mute">{messages.nothingOpen}</p> : null}
        {colours
          ? analysis.open.map((view) => {
              const View = VIEWS[view];
              return <View key={view} colours={colours} />;
            })
          : null}
      </div>
    </section>
  );
}
