import { OUTPUT_GAINS_DB } from '@/core/treatment/steps/output-gain';
import { formatGain } from '@/core/units/format';
import { DbField } from './fields';
import { outputGainMessages as messages } from './messages';
import { definePanel } from './panel';

export const outputGainPanel = definePanel({
  name: messages.outputGain,
  steps: ['outputGainDb'],
  state: ({ treatment: { outputGainDb }, onCommit }) => ({
    isOn: outputGainDb !== 0,
    summary: outputGainDb === 0 ? 'none' : formatGain(outputGainDb, 2),
    onToggle: (isOn) => onCommit({ outputGainDb: isOn ? -0.1 : 0 }),
    editor: (
      <DbField
        label={messages.outputGain}
        valueDb={outputGainDb}
        {...OUTPUT_GAINS_DB}
        onCommit={(value) => onCommit({ outputGainDb: value })}
      />
    ),
  }),
});
