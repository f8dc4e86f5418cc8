import { GAIN_LIMIT_DB } from '@/core/treatment/steps/gain';
import { formatGain } from '@/core/units/format';
import { DbField } from './fields';
import { gainMessages as messages } from './messages';
import { definePanel } from './panel';

export const gainPanel = definePanel({
  name: messages.gain,
  steps: ['gainDb'],
  state: ({ treatment: { gainDb }, onCommit }) => ({
    isOn: gainDb !== 0,
    summary: formatGain(gainDb, 2),
    onToggle: null,
    editor: (
      <DbField
        label={messages.gain}
        valueDb={gainDb}
        least={-GAIN_LIMIT_DB}
        most={GAIN_LIMIT_DB}
        onCommit={(value) => onCommit({ gainDb: value })}
      />
    ),
  }),
});
