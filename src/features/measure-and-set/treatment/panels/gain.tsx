import { GAIN_LIMIT_DB } from '@/core/treatment/steps/gain';
import { formatGain } from '@/core/units/format';
import { DbField } from './fields';
import { definePanel } from './panel';

export const gainPanel = definePanel({
  name: 'Gain',
  steps: ['gainDb'],
  state: ({ treatment: { gainDb }, onCommit }) => ({
    isOn: gainDb !== 0,
    summary: formatGain(gainDb, 2),
    onToggle: null,
    editor: (
      <DbField
        label="Gain"
        valueDb={gainDb}
        least={-GAIN_LIMIT_DB}
        most={GAIN_LIMIT_DB}
        onCommit={(value) => onCommit({ gainDb: value })}
      />
    ),
  }),
});
