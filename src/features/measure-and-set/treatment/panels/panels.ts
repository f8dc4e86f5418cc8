import { STEP_NAMES } from '@/core/treatment/treatment';
import { channelsPanel } from './channels';
import { dcPanel } from './dc';
import { ditherPanel } from './dither';
import { fadesPanel } from './fades';
import { gainPanel } from './gain';
import { limiterPanel } from './limiter';
import { outputGainPanel } from './output-gain';
import { paddingPanel } from './padding';
import type { StepPanel } from './panel';
import { plainPanel } from './plain';
import { ratePanel } from './rate';
import { trimPanel } from './trim';

/** Panels with controls of their own. */
const OWN: readonly StepPanel[] = [
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
];

/** The rows of the treatment card, in the order of the steps; a step without a panel of its own has a plain one. */
export const PANELS: readonly StepPanel[] = STEP_NAMES.flatMap((name) => {
  const own = OWN.find(({ steps }) => steps.includes(name));
  if (!own) return [plainPanel(name)];
  return own.steps[0] === name ? [own] : [];
});
