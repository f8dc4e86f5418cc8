'use client';

import { Tabs } from 'radix-ui';
import { type ReactNode, useRef } from 'react';
import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import type { Timeline } from '@/core/treatment/timeline';
import type { Colours } from '@/features/common/colours';
import { programmesQuery } from '@/features/common/data/queries';
import { useAllRows } from '@/features/common/data/use-parts';
import { useSpecs } from '@/features/common/specs';
import { useColours } from '@/features/common/use-colours';
import type { Trace } from '@/features/common/use-trace';
import type { Part, ProgrammeItem } from '@/server/jobs/programme-list';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import type { Curve } from '../trace/picture';
import { DistributionChart, distributionTable } from './distribution-chart';
import { type ChartTable, saveCsv, savePng, saveSvg } from './export';
import { HistoryChart, historyTable } from './history-chart';
import { chartsMessages as messages } from './messages';
import { PlaybackTable, playbackTable } from './playback-table';
import { ProgrammesChart, programmesTable } from './programmes-chart';

/** Charts to read: how it will play, how loudness is spread, how it went, and the job's programmes side by side. */
export function Charts({
  programme,
  jobId,
  before,
  after,
  trace,
  power,
  timeline,
  specs,
  onClose,
}: {
  programme: ProgrammeView;
  jobId: string;
  before: Readings;
  after: Readings;
  trace: Trace | null;
  power: Curve | null;
  timeline: Timeline;
  /** The first is the one that is worked for. */
  specs: readonly [Spec, ...Spec[]];
  onClose: () => void;
}) {
  const colours = useColours();
  const all = useSpecs();
  const [spec] = specs;
  const items = useAllRows<ProgrammeItem, Part<ProgrammeItem>>((part) => programmesQuery(jobId, spec.id, part));
  const rateHz = programme.format.sampleRateHz;
  const name = programme.title.replaceAll(/[^\p{L}\p{N}]+/gu, '_');
  const charts: { id: string; label: string; table: ChartTable; draw: ((colours: Colours) => ReactNode) | null }[] = [
    { id: 'playback', label: messages.howItWillPlay, table: playbackTable(after, specs, all), draw: null },
    {
      id: 'distribution',
      label: messages.loudnessDistribution,
      table: distributionTable(before, after),
      draw: (own) => <DistributionChart before={before} after={after} power={power} spec={spec} colours={own} />,
    },
    {
      id: 'history',
      label: messages.shortTermHistory,
      table: historyTable(trace, power, timeline, rateHz),
      draw: (own) => <HistoryChart table={historyTable(trace, power, timeline, rateHz)} spec={spec} colours={own} />,
    },
    {
      id: 'programmes',
      label: messages.programmesSideBySide,
      table: programmesTable(items, programme.id, after, spec),
      draw: (own) => (
        <ProgrammesChart table={programmesTable(items, programme.id, after, spec)} spec={spec} colours={own} />
      ),
    },
  ];
  return (
    <Dialog
      title={messages.chartsOf(programme.title)}
      description={messages.afterTheTreatmentFor(specs.map((own) => own.name).join(', '))}
      isOpen
      onOpenChange={(isOpen) => !isOpen && onClose()}
      isWide
    >
      <Tabs.Root defaultValue="playback" className="flex min-h-0 flex-col gap-3">
        <Tabs.List aria-label={messages.charts} className="flex gap-4 text-sm">
          {charts.map(({ id, label }) => (
            <Tabs.Trigger
              key={id}
              value={id}
              className="cursor-pointer rounded-sm border-b-2 border-transparent font-semibold text-mute data-[state=active]:border-slide-ink data-[state=active]:text-ink"
            >
              {label}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        {charts.map(({ id, label, table, draw }) => (
          <Tabs.Content
            key={id}
            value={id}
            className="flex min-h-0 flex-col gap-2 outline-none data-[state=inactive]:hidden"
          >
            {draw === null ? (
              <>
                <PlaybackTable readings={after} specs={specs} all={all} />
                <Saving table={table} name={`${name}_${id}`} />
              </>
            ) : colours ? (
              <Drawn label={label} table={table} name={`${name}_${id}`}>
                {draw(colours)}
              </Drawn>
            ) : null}
          </Tabs.Content>
        ))}
      </Tabs.Root>
    </Dialog>
  );
}

function Drawn({
  label,
  table,
  name,
  children,
}: {
  label: string;
  table: ChartTable;
  name: string;
  children: ReactNode;
}) {
  const chart = useRef<HTMLDivElement>(null);
  return (
    <>
      <div ref={chart} role="img" aria-label={label} className="shrink-0">
        {children}
      </div>
      <Saving table={table} name={name} chart={() => chart.current} />
      <details className="min-h-0 text-[13px]">
        <summary className="cursor-pointer text-xs font-semibold text-slide-ink">{messages.asATable}</summary>
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard. */}
        <div tabIndex={0} className="mt-1 max-h-40 overflow-y-auto">
          <PlainTable table={table} label={label} />
        </div>
      </details>
    </>
  );
}

function Saving({ table, name, chart }: { table: ChartTable; name: string; chart?: () => HTMLElement | null }) {
  const withChart = (work: (chart: HTMLElement) => void) => () => {
    const drawn = chart?.();
    if (drawn) work(drawn);
  };
  return (
    <div className="flex justify-end gap-2">
      {chart ? (
        <>
          <Button kind="inline" onClick={withChart((drawn) => void savePng(drawn, name))}>
            {messages.saveAsPng}
          </Button>
          <Button kind="inline" onClick={withChart((drawn) => saveSvg(drawn, name))}>
            {messages.saveAsSvg}
          </Button>
        </>
      ) : null}
      <Button kind="inline" onClick={() => saveCsv(table, name)}>
        {messages.saveAsCsv}
      </Button>
    </div>
  );
}

function PlainTable({ table: { columns, rows }, label }: { table: ChartTable; label: string }) {
  return (
    <table className="w-full">
      <caption className="sr-only">{label}</caption>
      <thead className="text-left text-xs text-mute">
        <tr>
          {columns.map((column) => (
            <th key={column} scope="col" className="pr-3 font-normal">
              {column}
            </th>
          ))}
        </tr>
      </thead>
      <tbody className="font-mono">
        {rows.map((row) => (
          <tr key={row.join()} className="border-t border-hair">
            {row.map((cell, i) => (
              <td key={columns[i]} className="pr-3">
                {cell ?? '◌'}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
