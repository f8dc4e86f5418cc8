import { RATE_MODES } from '@/core/file-formats/file-formats';
import { FILM_CODECS } from '@/core/film/film-formats';
import { MOST_REDUCTION_DB } from '@/core/treatment/limited-solver';
import type { StepFlag } from '@/core/treatment/step';
import { GAIN_LIMIT_DB } from '@/core/treatment/steps/gain';
import { STEP_FLAGS } from '@/core/treatment/treatment';
import { WRITTEN_DEPTHS } from '@/formats/pack';
import type { FlagGroup } from './flags';

const text = (name: string): StepFlag => ({
  name,
  value: 'TEXT',
  help: `the ${name === 'isrc' ? 'ISRC' : name} that the file states`,
});

/** The flags of `master` beside those that other commands have too, under the headings of its help. */
export const MASTER_FLAG_GROUPS: readonly FlagGroup[] = [
  {
    heading: 'Levels:',
    flags: [
      { name: 'spec-file', value: 'FILE', help: 'a spec of your own, as JSON ("opsimeter specs --json" shows some)' },
      {
        name: 'max-reduction',
        value: 'DB',
        help: `where the ceiling stops the gain, a limiter of at most so many dB (0 to ${MOST_REDUCTION_DB})`,
      },
      { name: 'ceiling', value: 'DBTP', help: "another ceiling than the spec's (-12 to 0)" },
      {
        name: 'gain',
        value: 'DB',
        help: `this gain, instead of one that is worked out (-${GAIN_LIMIT_DB} to ${GAIN_LIMIT_DB})`,
      },
      { name: 'premaster', help: 'peaks 6 dB below full scale, and nothing else is touched' },
    ],
  },
  { heading: 'Treatment, in this order:', flags: STEP_FLAGS },
  {
    heading: 'File:',
    flags: [
      { name: 'bits', value: 'N', help: `${WRITTEN_DEPTHS.join(', ')} (32 is float)` },
      {
        name: 'codec',
        value: 'CODEC',
        help: `of sound that goes back into a film: ${FILM_CODECS.join(', ')} (its own)`,
      },
      { name: 'recode-picture', help: 'of a part of a film: exact to the picture, in place of a cut at key frames' },
      { name: 'bitrate', value: 'KBPS', help: 'bit rate of a lossy file' },
      { name: 'mode', value: 'MODE', help: `bit-rate mode of a lossy file: ${RATE_MODES.join(', ')}` },
      ...['title', 'artist', 'album', 'track', 'year', 'genre', 'comment', 'isrc'].map(text),
      { name: 'cover', value: 'FILE', help: 'a PNG or JPEG picture that the file carries' },
      { name: 'without-adm', help: "leave the file's audio definition (ADM) out, where it can not go on" },
      { name: 'loudness-tags', help: 'write loudness tags: ReplayGain, or R128 gain in Opus' },
    ],
  },
];
