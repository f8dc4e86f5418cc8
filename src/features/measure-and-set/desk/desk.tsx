'use client';

import dynamic from 'next/dynamic';
import { ErrorNotice } from '@/features/common/error-notice';
import { TreatmentCard } from '../treatment/treatment-card';
import { DeskProvider, useDesk, useDeskCommands } from './desk-context';
import { DeskLayout } from './desk-layout';
import { HeaderPanel } from './header-panel';
import { PlacesPanel } from './places-panel';
import { ReadingsPanel } from './readings-panel';
import { RulePanel } from './rule-panel';
import { TracePanel } from './trace-panel';
import type { DeskGiven } from './use-desk-state';

/** Charts come once they are asked for. */
const AnalysisPanel = dynamic(() => import('../analysis/analysis-panel').then((module) => module.AnalysisPanel), {
  ssr: false,
});

/** The desk for one measured programme: what it is, how far from the spec, what brings it there, and how that sounds. */
export function Desk(given: DeskGiven) {
  return (
    <DeskProvider {...given}>
      <div className="flex h-full min-h-0 flex-col gap-1.5">
        <HeaderPanel />
        <DeskProblem />
        <DeskLayout
          panels={{
            trace: <TracePanel />,
            analysis: <AnalysisPanel />,
            rule: <RulePanel />,
            treatment: <TreatmentPanel />,
            readings: <ReadingsPanel />,
            places: <PlacesPanel />,
          }}
        />
      </div>
    </DeskProvider>
  );
}

function DeskProblem() {
  const { treating, acting } = useDesk();
  return <ErrorNotice error={treating.error ?? acting.error} onClose={acting.error ? acting.clearError : undefined} />;
}

function TreatmentPanel() {
  const { programme, measured, treating, treatment, state, treated, spec, span, timeCode } = useDesk();
  const { options, openStep, setOpenStep } = useDesk();
  const { commit, step } = treating;
  useDeskCommands({ undo: () => step('undo'), redo: () => step('redo') });
  return (
    <div data-tour="treatment" className="grid min-h-0 min-w-0 rounded-card">
      <TreatmentCard
        programmeId={programme.id}
        treatment={treatment}
        state={state}
        versions={programme.versions}
        treated={treated}
        source={measured.readings}
        format={programme.format}
        timeCode={timeCode}
        ceilingDbtp={spec.peak.ceiling}
        span={span}
        starts={options.starts}
        openStep={openStep}
        onOpenStep={setOpenStep}
        onCommit={commit}
        onStep={step}
      />
    </div>
  );
}
