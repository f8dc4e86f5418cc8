'use client';

import { Pause, Play, Repeat } from 'lucide-react';
import { useSyncExternalStore } from 'react';
import type { LivePeak } from '@/core/loudness/live-meter';
import type { Level } from '@/core/units/decibel';
import { formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { describeTimeCodeRate, type StartTimeCode, timeCodeAt } from '@/core/units/time-code';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { classNames } from '@/ui/class-names';
import { Switch } from '@/ui/segments';
import { type TraceStore, useTraceState } from '../trace/store';
import { type LiveStore, useLive } from './live-store';
import { transportMessages as messages } from './messages';
import type { Audition, HeardChoice } from './use-audition';

/** Playing, and what is heard: of which version, and how one listens. */
export function Transport({
  audition,
  choices,
  store,
  rateHz,
  timeCode,
  heardHz,
  channelLabels,
  hasSpan,
  isEqual,
  onEqual,
  hasMeters,
}: {
  audition: Audition;
  choices: readonly HeardChoice[];
  store: TraceStore;
  /** Of the source. */
  rateHz: number;
  /** Null where the file states none. */
  timeCode: StartTimeCode | null;
  /** Of what is heard. */
  heardHz: number;
  channelLabels: readonly string[];
  hasSpan: boolean;
  isEqual: boolean;
  onEqual: (isEqual: boolean) => void;
  /** The readings have a place of their own elsewhere. */
  hasMeters: boolean;
}) {
  const { isPlaying, isLooping, isMono, isRemovedOnly, heardId, live } = audition;
  return (
    <div className="mb-1 flex flex-wrap items-center gap-x-2 gap-y-1">
      <Button
        kind="primary"
        aria-keyshortcuts="Space"
        aria-label={isPlaying ? messages.pause : messages.play}
        onClick={audition.toggle}
        className="w-11 px-0 py-0.5"
      >
        {isPlaying ? <Pause size={15} aria-hidden /> : <Play size={15} aria-hidden />}
      </Button>
      <Clock audition={audition} store={store} rateHz={rateHz} timeCode={timeCode} />
      <Switch
        label={messages.loopTheSpan}
        hint={hasSpan ? messages.loopHint : messages.loopNeedsASpan}
        isOn={isLooping}
        onChange={audition.setLooping}
      >
        <Repeat size={13} aria-hidden />
      </Switch>
      <Choice
        label={messages.heard}
        compact
        value={heardId}
        options={choices.map(({ id, name }) => ({ value: id, label: name }))}
        onChange={audition.hear}
      />
      <Switch hint={messages.equallyLoudHint} isOn={isEqual} onChange={onEqual}>
        {messages.equallyLoud}
      </Switch>
      <Switch hint={messages.monoHint} isOn={isMono} onChange={audition.setMono}>
        {messages.mono}
      </Switch>
      <Switch hint={messages.removedHint} isOn={isRemovedOnly} onChange={audition.setRemovedOnly}>
        {messages.removed}
      </Switch>
      {audition.hasFailed ? (
        <span role="alert" className="text-xs text-breach">
          {messages.notLoaded}
        </span>
      ) : null}
      {hasMeters ? null : (
        <LiveMeters
          live={live}
          isPlaying={isPlaying}
          channelLabels={channelLabels}
          heardHz={heardHz}
          onClear={audition.clear}
        />
      )}
    </div>
  );
}

/** Where one is, or where it is played: from the start of the file, and by its time code. */
function Clock({
  audition,
  store,
  rateHz,
  timeCode,
}: {
  audition: Audition;
  store: TraceStore;
  rateHz: number;
  timeCode: StartTimeCode | null;
}) {
  const { playhead, isStarved } = audition;
  const frame = useTraceState(store, (state) => state.frame);
  const played = useSyncExternalStore(playhead.subscribe, playhead.get, () => null);
  const at = Math.max(0, played ?? frame);
  return (
    <span className={classNames('flex font-mono text-[13px]', isStarved && audition.isPlaying && 'text-mute')}>
      <span data-clock className="w-24">
        {formatTime(at / rateHz, { milliseconds: true })}
      </span>
      {timeCode ? (
        <span data-time-code title={messages.timeCode(describeTimeCodeRate(timeCode.rate))} className="w-26">
          {timeCodeAt(timeCode, Math.floor(at), rateHz)}
        </span>
      ) : null}
    </span>
  );
}

/** What is read of what is heard: now, and since it began. */
function LiveMeters({
  live,
  isPlaying,
  channelLabels,
  heardHz,
  onClear,
}: {
  live: LiveStore;
  isPlaying: boolean;
  channelLabels: readonly string[];
  heardHz: number;
  onClear: () => void;
}) {
  const { readings, reductionDb, mostReductionDb, hasBegun } = useLive(live);
  const values: { name: string; hint: string; level: Level; most?: Level }[] = [
    {
      name: 'M',
      hint: messages.momentaryHint,
      level: readings.momentaryLufs,
      most: readings.maxMomentaryLufs,
    },
    {
      name: 'S',
      hint: messages.shortTermHint(formatLevel(readings.maxShortTermLufs, 'LUFS')),
      level: readings.shortTermLufs,
      most: readings.maxShortTermLufs,
    },
    {
      name: 'I',
      hint: messages.integratedHint(formatLevel(readings.loudnessRangeLu, 'LU')),
      level: readings.integratedLufs,
    },
    { name: 'TP', hint: peaksHint(readings.peaks, channelLabels, heardHz), level: readings.truePeakDbtp },
    {
      name: 'GR',
      hint: messages.reductionHint,
      level: hasBegun ? -reductionDb : null,
      most: hasBegun ? -mostReductionDb : null,
    },
  ];
  return (
    <fieldset
      aria-label={messages.liveReadings}
      data-playing={isPlaying}
      className="ml-auto flex items-baseline gap-1.5 font-mono text-[12px]"
    >
      {values.map(({ name, hint, level, most }) => (
        <span
          key={name}
          title={hint}
          data-reading={name}
          data-value={level ?? undefined}
          data-most={most ?? undefined}
          className="whitespace-nowrap"
        >
          <i className="mr-1 font-sans text-[11px] text-mute not-italic">{name}</i>
          <b className="inline-block min-w-[3.1em] text-right">{level === null ? '◌' : formatNumber(level)}</b>
          {most === undefined || name === 'S' ? null : (
            <i className="ml-0.5 inline-block min-w-[3.7em] text-right text-mute not-italic">
              {most === null ? '' : `‹${formatNumber(most)}`}
            </i>
          )}
        </span>
      ))}
      <button
        type="button"
        disabled={!hasBegun}
        onClick={onClear}
        aria-label={messages.resetMeters}
        title={hasBegun ? messages.resetMeters : messages.nothingHeard}
        className="cursor-pointer rounded-sm px-1 font-sans text-xs font-semibold text-slide-ink enabled:hover:underline disabled:cursor-default disabled:text-mute"
      >
        {messages.reset}
      </button>
    </fieldset>
  );
}

/** The true peak of each channel, and when it was heard. */
function peaksHint(peaks: readonly LivePeak[], labels: readonly string[], heardHz: number): string {
  const told = peaks.map(({ maxDbtp, maxFrame }, c) => {
    const level = `${labels[c] ?? ''} ${formatLevel(maxDbtp, 'dBTP')}`.trim();
    return maxFrame === null ? level : messages.peakAt(level, formatTime(Math.max(0, maxFrame) / heardHz));
  });
  return [messages.truePeakHint, ...told].join('; ');
}
