/** What is answered of line-ups: the fields that others may rely on. */
import * as z from 'zod';
import { DELIVERY_STATES } from '@/core/delivery/delivery-state';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { ASSEMBLED_ROLES, ASSEMBLY_FORMS } from '@/core/lineup/assembly';
import { BALANCES, LINE_UP_KINDS } from '@/core/lineup/line-up';
import { ASSESSMENT_STATES } from '@/core/spec/assessment';

const level = z.number().nullable();

const lineUpAnswer = z.looseObject({
  id: z.string(),
  jobId: z.string(),
  kind: z.enum(LINE_UP_KINDS),
  name: z.string(),
  specId: z.string().nullable(),
  /** Of stems: their mix, where somebody has said which it is. */
  mixId: z.string().nullable(),
  record: z.looseObject({
    artist: z.string(),
    catalogNumber: z.string(),
    isForCd: z.boolean(),
    pregapSeconds: z.number(),
    book: z.looseObject({ hasOpeningCredits: z.boolean(), hasClosingCredits: z.boolean(), chapterName: z.string() }),
  }),
  members: z.array(z.object({ programmeId: z.string(), gapSeconds: z.number() })),
});

export const lineUpsAnswer = z.object({
  lineUps: z.array(lineUpAnswer),
  proposals: z.array(z.object({ kind: z.enum(LINE_UP_KINDS), name: z.string(), programmeIds: z.array(z.string()) })),
});

export const lineUpReadingAnswer = z.looseObject({
  lineUp: lineUpAnswer,
  waiting: z.array(z.string()),
  whole: z
    .looseObject({
      durationSeconds: z.number(),
      integratedLufs: level,
      loudnessRangeLu: level,
      maxMomentaryLufs: level,
      maxShortTermLufs: level,
      truePeakDbtp: level,
    })
    .nullable(),
  loudest: z.string().nullable(),
  tracks: z.array(
    z.looseObject({
      programmeId: z.string(),
      title: z.string(),
      startSeconds: z.number(),
      durationSeconds: z.number(),
      sampleRateHz: z.number(),
      gapSeconds: z.number().nullable(),
      gainDb: z.number(),
      integratedLufs: level,
      fromWholeLu: level,
      truePeakDbtp: level,
    }),
  ),
});

export const balanceForecastsAnswer = z.object({
  forecasts: z.array(
    z.object({
      balance: z.enum(BALANCES),
      outcome: z
        .looseObject({
          integratedLufs: level,
          softestLufs: level,
          loudestLufs: level,
          truePeakDbtp: level,
          reductionDb: level,
          stoppedBy: z.array(z.string()),
        })
        .nullable(),
    }),
  ),
});

export const balanceAnswer = z.object({
  gains: z.array(z.object({ programmeId: z.string(), gainDb: z.number(), wasDb: z.number() })),
  stoppedBy: z.array(z.string()),
});

export const isrcsAnswer = z.object({
  isrcs: z.array(z.object({ programmeId: z.string(), isrc: z.string(), was: z.string() })),
});

const assessments = z.array(
  z.looseObject({ key: z.string(), found: z.string(), required: z.string(), state: z.enum(ASSESSMENT_STATES) }),
);

export const assemblyPreviewAnswer = z.object({
  formatText: z.string(),
  tracks: z.array(z.object({ startFrame: z.number(), pauseFrame: z.number().nullable() })),
  frames: z.number(),
  sampleRateHz: z.number(),
  cd: assessments.nullable(),
});

export const bookAnswer = z.object({
  chapters: z.array(
    z.object({ programmeId: z.string(), title: z.string(), fileName: z.string(), isDelivered: z.boolean() }),
  ),
  sampleName: z.string().nullable(),
});

export const filmAnswer = z.looseObject({
  fileName: z.string(),
  timeCode: z.string().nullable(),
  tracks: z.number(),
  copiedTracks: z.array(z.number()),
  sounds: z.array(
    z.looseObject({
      programmeId: z.string(),
      title: z.string(),
      /** Such as `1+2`. */
      tracks: z.string().nullable(),
      delivery: z.looseObject({ id: z.string(), fileName: z.string(), formatText: z.string() }).nullable(),
      problem: z.string().nullable(),
    }),
  ),
  wanted: deliveryFormatSchema,
  problem: z.string().nullable(),
});

export const assembliesAnswer = z.object({
  assemblies: z.array(
    z.looseObject({
      id: z.string(),
      lineUpId: z.string(),
      folderName: z.string(),
      form: z.enum(ASSEMBLY_FORMS),
      formatText: z.string(),
      state: z.enum(DELIVERY_STATES),
      outcome: z
        .looseObject({
          files: z.array(
            z.object({
              fileName: z.string(),
              role: z.enum(ASSEMBLED_ROLES),
              track: z.number().nullable(),
              sizeBytes: z.number(),
              sha256: z.string(),
            }),
          ),
          verdict: z.looseObject({ inside: z.boolean() }),
          /** What written stems leave of their master; null of records. */
          residual: z.looseObject({ nulls: z.boolean(), residualDb: level, greatestResidualDb: level }).nullable(),
          cd: assessments.nullable(),
          /** What was read of each sound of a film; null of all else. */
          sounds: z
            .array(
              z.looseObject({
                title: z.string(),
                tracks: z.array(z.number()),
                formatText: z.string(),
                verdict: z.looseObject({ inside: z.boolean() }),
                movedMs: z.number(),
              }),
            )
            .nullable(),
        })
        .nullable(),
    }),
  ),
});

const place = { startFrame: z.number(), endFrame: z.number() };
const stem = { programmeId: z.string(), title: z.string(), sampleRateHz: z.number(), frames: z.number() };

export const stemsAnswer = z.looseObject({
  mix: z.looseObject(stem).nullable(),
  /** What is done to the mix, and so to every stem that is written. */
  treatment: z.array(z.string()),
  stems: z.array(
    z.looseObject({
      ...stem,
      differences: z.array(z.object({ kind: z.string(), text: z.string(), isBlocking: z.boolean() })),
    }),
  ),
  waiting: z.array(z.string()),
  test: z
    .looseObject({
      offsetFrames: z.array(z.number()),
      isTimed: z.boolean(),
      testedAtMs: z.number(),
      reading: z.looseObject({
        nulls: z.boolean(),
        residualDb: level,
        greatestResidualDb: level,
        mixDb: level,
        toleranceDb: z.number(),
        stems: z.array(z.looseObject({ gainDb: level, delayFrames: z.number(), isInverted: z.boolean() })),
        places: z.array(z.looseObject({ ...place, residualDb: level })),
        faults: z.array(z.looseObject({ ...place, kind: z.string() })),
      }),
    })
    .nullable(),
});
