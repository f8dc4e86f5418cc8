import { formatNumber, formatTime } from '../units/format';
import type { Alignment } from './align-pass';
import type { DropOut } from './drop-outs';

/** What is known of a pass. */
interface Known extends Alignment {
  gainDb: number | null;
  peakDbfs: number | null;
  dropOuts: DropOut[];
}

/** What came back is at full scale, or nearly. */
const FULL_SCALE_DBFS = -0.01;
/** What is less like what was sent than this may be something else (from what the tests' gear does). */
const LITTLE_ALIKE = 0.5;

/** So many places where frames were lost are told. */
const MOST_SHIFTS = 3;

/** Such as "25.7 ms later (1234 frames), 1.2 dB quieter". */
export function passText({ delayFrames, gainDb }: Known, sampleRateHz: number): string {
  const later = `${formatNumber((1000 * delayFrames) / sampleRateHz)} ms later (${delayFrames} frames)`;
  if (gainDb === null) return later;
  const by = formatNumber(Math.abs(gainDb));
  return `${later}, ${by === '0.0' ? 'as loud' : `${by} dB ${gainDb > 0 ? 'louder' : 'quieter'}`}`;
}

/** What is wrong with a pass, or may be; nothing where nothing is. */
export function passProblems(reading: Known, sampleRateHz: number): string[] {
  const { isInverted, shifts, driftPpm, dropOuts, peakDbfs, likeness } = reading;
  const at = (frame: number) => formatTime(frame / sampleRateHz);
  const [first] = dropOuts;
  return [
    ...(first && dropOuts.length === 1 ? [`a drop-out at ${at(first.startFrame)}`] : []),
    ...(first && dropOuts.length > 1 ? [`${dropOuts.length} drop-outs, the first at ${at(first.startFrame)}`] : []),
    ...(driftPpm === null
      ? shifts.slice(0, MOST_SHIFTS).map(({ startFrame, endFrame, byFrames }) => {
          const what = byFrames < 0 ? 'were lost' : 'were added';
          return `between ${at(startFrame)} and ${at(endFrame)} ${Math.abs(byFrames)} frames ${what}: send it again`;
        })
      : [
          `output and input run by clocks that differ by ${formatNumber(Math.abs(driftPpm), 0)} ppm: use one device for both`,
        ]),
    ...(isInverted ? ['polarity inverted'] : []),
    ...(peakDbfs !== null && peakDbfs >= FULL_SCALE_DBFS ? ['full scale was reached: the input may have clipped'] : []),
    ...(likeness < LITTLE_ALIKE ? ['little of it is like what was sent: check that it is the right return'] : []),
  ];
}
