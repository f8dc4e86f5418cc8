import { joined } from '@/core/lineup/balance';
import type { JoinedReading } from '@/core/lineup/joined';
import type { GlanceLevels, Readings } from '@/core/loudness/readings';
import { loudnessCurve, SHORT_TERM_BINS } from '@/core/loudness/series';
import type { AssessmentState } from '@/core/spec/assessment';
import { assessLoudness } from '@/core/spec/requirements/loudness';
import { assessPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import { gainOnly, preparationOf, type Treatment } from '@/core/treatment/treatment';
import type { Level } from '@/core/units/decibel';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes } from '../db/schema';
import { specInUse } from '../jobs/jobs';
import { programmesWhere } from '../jobs/programme-view';
import { predictLevels } from '../measure/limiting';
import { prepareSource } from '../measure/prepared';
import { currentTreatment } from '../treatments/treatments';
import { type LineUpView, lineUpOf } from './line-ups';

/** One programme of a line-up, as it is set. */
export interface TrackView {
  programmeId: string;
  title: string;
  /** Twelve characters; empty where it has none. */
  isrc: string;
  startSeconds: number;
  durationSeconds: number;
  sampleRateHz: number;
  /** Behind it; null of the last. */
  gapSeconds: number | null;
  gainDb: number;
  /** The most that its limiter takes; null where it has none. */
  reductionDb: number | null;
  integratedLufs: Level;
  /** How much louder it is than the whole. */
  fromWholeLu: number | null;
  loudnessRangeLowLufs: Level;
  loudnessRangeHighLufs: Level;
  truePeakDbtp: Level;
  /** What the spec says of its peak. */
  peakState: AssessmentState;
  /** Short-term loudness along its length, evenly spaced; null where there is none yet, or silence. */
  shortTermLufs: Level[];
}

/** A line-up as it is set, read as one programme. */
export interface LineUpReadingView {
  lineUp: LineUpView;
  spec: Spec;
  /** Programmes that are not measured yet: nothing is read of the whole before. */
  waiting: string[];
  whole:
    | (Omit<JoinedReading, 'tracks' | 'range' | 'loudest'> & {
        loudnessRangeLu: Level;
        /** What the spec says of its loudness, and of its highest peak; not assessed where it measures another loudness. */
        loudnessState: AssessmentState;
        peakState: AssessmentState;
      })
    | null;
  /** Id of the loudest programme. */
  loudest: string | null;
  tracks: TrackView[];
}

/** Points of a programme's curve: as many as a screen has room for. */
const CURVE_POINTS = 120;

/** A programme as a treatment makes it, without its audio. */
export interface TreatedMember {
  programmeId: string;
  title: string;
  /** Twelve characters; empty where it has none. */
  isrc: string;
  gapSeconds: number;
  treatment: Treatment;
  sampleRateHz: number;
  frames: number;
  weightedPower: Float32Array;
  truePeakDbtp: Level;
  readings: Readings;
  reductionDb: number | null;
}

/**
 * Reads a line-up as it is set now, as if it were played in order. Of what is not measured yet nothing is read.
 *
 * @param specId instead of its own, and else the usual one
 * @throws AppError `not-found`, `overlap-too-long`
 */
export async function readLineUp(server: ServerContext, lineUpId: string, specId?: string): Promise<LineUpReadingView> {
  const lineUp = lineUpOf(server, lineUpId);
  const spec = specInUse(server, lineUp.jobId, specId ?? lineUp.specId);
  const { members, waiting } = await treatedMembers(server, lineUp);
  if (waiting.length > 0 || members.length === 0)
    return { lineUp, spec, waiting, whole: null, loudest: null, tracks: [] };
  const { tracks, range, loudest, ...whole } = joined(members);
  return {
    lineUp,
    spec,
    waiting,
    whole: {
      ...whole,
      loudnessRangeLu: range?.rangeLu ?? null,
      loudnessState:
        spec.loudness?.measure === 'integrated'
          ? assessLoudness(spec.loudness, { ...highest(members), integratedLufs: whole.integratedLufs }).state
          : 'not-assessed',
      peakState: assessPeak(spec, highest(members)).state,
    },
    loudest: loudest === null ? null : (members[loudest]?.programmeId ?? null),
    tracks: tracks.map((track, i) => {
      const { programmeId, title, isrc, gapSeconds, sampleRateHz, treatment, reductionDb, readings, weightedPower } =
        members[i] as TreatedMember;
      return {
        ...track,
        programmeId,
        title,
        isrc,
        sampleRateHz,
        gapSeconds: i === tracks.length - 1 ? null : gapSeconds,
        gainDb: treatment.gainDb,
        reductionDb,
        loudnessRangeLowLufs: readings.loudnessRangeLowLufs,
        loudnessRangeHighLufs: readings.loudnessRangeHighLufs,
        peakState: assessPeak(spec, readings).state,
        shortTermLufs: curveOf(weightedPower),
      };
    }),
  };
}

/** Every programme of a line-up with its treatment; in place of the current one, the one that `change` makes of it. */
export async function treatedMembers(
  server: ServerContext,
  { members, record }: LineUpView,
  change: (treatment: Treatment, programmeId: string) => Treatment = (treatment) => treatment,
): Promise<{ members: TreatedMember[]; waiting: string[] }> {
  const ids = members.map(({ programmeId }) => programmeId);
  const rows = new Map(programmesWhere(server, among(programmes.id, ids)).map((row) => [row.programmes.id, row]));
  const treated: TreatedMember[] = [];
  const waiting: string[] = [];
  for (const { programmeId, gapSeconds } of members) {
    const row = rows.get(programmeId);
    if (!row) continue;
    const { title, fileName, sourceSha256, tags } = row.programmes;
    if (!server.sourceReport(sourceSha256)) {
      waiting.push(title);
      continue;
    }
    const own = currentTreatment(server, programmeId)?.treatment ?? gainOnly(0);
    // One limiter over the whole does to each programme what one of its own would, but where two overlap.
    const treatment = change(record.limit ? { ...own, limit: record.limit } : own, programmeId);
    const prepared = await prepareSource(server, sourceSha256, fileName, preparationOf(treatment));
    const { readings, weightedPower, reduction } = await predictLevels(server, prepared, treatment);
    treated.push({
      programmeId,
      title,
      isrc: tags?.isrc ?? '',
      gapSeconds,
      treatment,
      sampleRateHz: prepared.format.sampleRateHz,
      frames: prepared.format.frames,
      weightedPower,
      truePeakDbtp: readings.truePeakDbtp,
      readings,
      reductionDb: reduction?.greatestDb ?? null,
    });
  }
  return { members: treated, waiting };
}

/** The highest peaks of all; of their levels nothing else is that of the whole. */
function highest(members: readonly TreatedMember[]): GlanceLevels {
  const most = (key: 'truePeakDbtp' | 'samplePeakDbfs') =>
    members.reduce<Level>(
      (best, { readings }) => (best === null || (readings[key] ?? best) > best ? readings[key] : best),
      null,
    );
  return {
    integratedLufs: null,
    rmsDbfs: null,
    truePeakDbtp: most('truePeakDbtp'),
    samplePeakDbfs: most('samplePeakDbfs'),
  };
}

function curveOf(weightedPower: Float32Array): Level[] {
  const curve = loudnessCurve(weightedPower, SHORT_TERM_BINS);
  const points = Math.min(CURVE_POINTS, curve.length);
  return Array.from({ length: points }, (_, i) => {
    const value = curve[Math.floor(((i + 0.5) * curve.length) / points)] as number;
    return Number.isFinite(value) ? value : null;
  });
}
