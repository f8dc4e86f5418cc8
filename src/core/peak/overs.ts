import { amplitudeToDb, dbToAmplitude } from '../units/decibel';

/** A stretch above the ceiling: bins of 100 ms that follow one another. */
export interface Over {
  startBin: number;
  endBin: number;
  /** Frame of the stretch's greatest peak. */
  frame: number;
  /** How far that peak stands above the ceiling. */
  excessDb: number;
  /** Channels that are above the ceiling anywhere in the stretch. */
  channels: number[];
}

/** Per channel, the true peak of every 100 ms (linear) and the frame where it stands. */
export interface PeakSeries {
  peaks: readonly Float32Array[];
  frames: readonly Float64Array[];
}

/** The stretches whose true peak exceeds the ceiling after a gain, in order of time. */
export function findOvers(series: PeakSeries, gainDb: number, ceilingDbtp: number): Over[] {
  const limit = dbToAmplitude(ceilingDbtp - gainDb);
  const bins = series.peaks[0]?.length ?? 0;
  const overs: Over[] = [];
  let open: (Over & { peak: number }) | undefined;
  const close = () => {
    if (!open) return;
    const { peak, ...over } = open;
    overs.push({ ...over, excessDb: (amplitudeToDb(peak) as number) + gainDb - ceilingDbtp });
    open = undefined;
  };
  for (let bin = 0; bin < bins; bin++) {
    let isOver = false;
    for (let channel = 0; channel < series.peaks.length; channel++) {
      const peak = series.peaks[channel]?.[bin] as number;
      if (peak <= limit) continue;
      isOver = true;
      const frame = series.frames[channel]?.[bin] as number;
      open ??= { startBin: bin, endBin: bin + 1, frame, excessDb: 0, channels: [], peak: 0 };
      open.endBin = bin + 1;
      if (!open.channels.includes(channel)) open.channels.push(channel);
      if (peak > open.peak) {
        open.peak = peak;
        open.frame = frame;
      }
    }
    if (!isOver) close();
  }
  close();
  return overs;
}
