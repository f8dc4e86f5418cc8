'use client';

import { useMemo, useState } from 'react';
import { specOptions } from '@/features/common/specs';
import { Choice } from '@/ui/choice';
import { Switch } from '@/ui/segments';
import { GainPanel } from '../gain-panel';
import { MetersPanel } from '../gauge/meters-panel';
import { nearestText } from '../nearest-text';
import { Rule } from '../rule/rule';
import { StackedSpecs } from '../stacked-specs';
import type { GainChoice } from '../use-options';
import { useDesk, useDeskCommands, useRunCommand } from './desk-context';
import { rulePanelMessages as messages } from './messages';

/** The rule, the specs that stand over it, and the gains that mean something. */
export function RulePanel() {
  const desk = useDesk();
  const { specId, specs, spec, others, otherSpecIds, onSpec, onOthers, treatment, treated, treating, setGain } = desk;
  const { gainDb, limit } = treatment;
  const { choices } = desk.options;
  const { isGauge, setGauge, gaugeScale, setGaugeScale, analysis, setAnalysis, audition, keyMap, written } = desk;
  const names = treated.after.perChannel.map(({ label }) => label).join('\n');
  const channelLabels = useMemo(() => names.split('\n'), [names]);
  const [say, setSay] = useState({ asked: 0 });
  const sayNow = () => {
    setGauge(true);
    setSay(({ asked }) => ({ asked: asked + 1 }));
  };
  const toggleAnalysis = () => setAnalysis({ ...analysis, isShown: !analysis.isShown });
  const gainTo = (choiceId: GainChoice['id']) => () => {
    const choice = choices.find((own) => own.id === choiceId);
    if (choice?.gainDb != null) setGain(choice.gainDb);
  };
  useDeskCommands({
    target: gainTo('target'),
    ceiling: gainTo('ceiling'),
    headroom: gainTo('headroom'),
    'as-it-came': gainTo('as-it-came'),
    meters: () => setGauge(!isGauge),
    analysis: toggleAnalysis,
    say: sayNow,
  });
  const nearest = nearestText(treated.after, spec, limit !== null);
  return (
    <section
      aria-label={messages.rule}
      data-tour="rule"
      className="flex h-full min-h-0 min-w-0 flex-col items-stretch gap-4 rounded-card border border-hair bg-sheet px-4 py-1.5 lg:flex-row"
    >
      <div className="flex min-h-0 min-w-0 grow flex-col">
        <div className="mb-1 flex items-center justify-between gap-4 whitespace-nowrap">
          <h2 className="flex min-w-0 items-center gap-3 text-sm font-bold">
            {messages.rule}
            <span
              className="line-clamp-2 hidden text-[11px] leading-3 font-normal whitespace-normal text-mute xl:[display:-webkit-box]"
              title={nearest}
            >
              {nearest}
            </span>
          </h2>
          <span className="flex items-center gap-2">
            <Arrangements />
            <StackedSpecs mainId={specId} chosen={otherSpecIds} onChange={onOthers} />
            <Choice label={messages.spec} compact value={specId} options={specOptions(specs)} onChange={onSpec} />
          </span>
        </div>
        <Rule
          spec={spec}
          others={others}
          source={treated.before}
          treated={treated.after}
          gainDb={gainDb}
          onChange={(value) => treating.change({ gainDb: value })}
          onCommit={setGain}
          gauge={isGauge ? { live: audition.live, scale: gaugeScale, channelLabels } : null}
        />
      </div>
      {isGauge ? (
        <MetersPanel
          live={audition.live}
          isPlaying={audition.isPlaying}
          spec={spec}
          scale={gaugeScale}
          onScale={setGaugeScale}
          channelLabels={channelLabels}
          heardHz={written.sampleRateHz}
          say={say}
          sayKey={keyMap.keys.say}
          onSay={sayNow}
          onClear={audition.clear}
        />
      ) : (
        <GainPanel gainDb={gainDb} choices={choices} keys={keyMap.keys} onCommit={setGain} />
      )}
    </section>
  );
}

/** How the panels share the page: for the eye, or for the hand, on narrow pages below each other; and what the rule shows. */
function Arrangements() {
  const { arrangement, keyMap, isGauge, setGauge, analysis } = useDesk();
  const run = useRunCommand();
  return (
    <span className="mr-2 flex gap-1">
      {(['look', 'set'] as const).map((id) => (
        <Switch
          compact
          className="max-lg:hidden"
          key={id}
          label={messages.arrangements[id].name}
          hint={messages.arrangements[id].hint(keyMap.keys[id])}
          isOn={arrangement === id}
          onChange={() => run(id)}
        >
          {messages.arrangements[id].name}
        </Switch>
      ))}
      <Switch compact hint={messages.metersHint(keyMap.keys.meters)} isOn={isGauge} onChange={setGauge}>
        {messages.meters}
      </Switch>
      <Switch
        compact
        hint={messages.analysisHint(keyMap.keys.analysis)}
        isOn={analysis.isShown}
        onChange={() => run('analysis')}
      >
        {messages.analysis}
      </Switch>
      <button
        type="button"
        title={messages.chartsHint(keyMap.keys.charts)}
        aria-keyshortcuts={keyMap.keys.charts}
        onClick={() => run('charts')}
        className="cursor-pointer rounded-control border border-hair px-1.5 text-[11px] leading-4 font-semibold text-mute hover:border-stock-3"
      >
        {messages.charts}
      </button>
    </span>
  );
}
