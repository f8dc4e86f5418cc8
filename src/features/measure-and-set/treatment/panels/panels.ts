import type { StepName } from '@/core/treatment/treatment';
import { channelsPanel } from './channels';
import { dcPanel } from './dc';
import { ditherPanel } from './dither';
import { fadesPanel } from './fades';
import { gainPanel } from './gain';
import { limiterPanel } from './limiter';
import { outputGainPanel } from './output-gain';
import { paddingPanel } from './padding';
import type { StepPanel } from './panel';
import { ratePanel } from './rate';
import { trimPanel } from './trim';

const ALL = [
  trimPanel,
  ratePanel,
  dcPanel,
  channelsPanel,
  paddingPanel,
  gainPanel,
  limiterPanel,
  outputGainPanel,
  fadesPanel,
  ditherPanel,
] as const;

/** Steps that no panel is for: there must be none. */
type Missing = Exclude<StepName, (typeof ALL)[number]['steps'][number]>;

/** The rows of the treatment card, in the order of the steps. */
export const PANELS: [Missing] extends [never] ? readonly StepPanel[] : Missing = ALL;
