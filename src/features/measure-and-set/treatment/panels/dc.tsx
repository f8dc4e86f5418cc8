import type { Readings } from '@/core/loudness/readings';
import { formatNumber } from '@/core/units/format';
import { dcMessages as messages } from './messages';
import { definePanel } from './panel';

export const dcPanel = definePanel({
  name: 'DC',
  steps: ['removeDc'],
  state: ({ treatment: { removeDc }, source, onCommit }) => ({
    isOn: removeDc,
    summary: removeDc ? messages.offsetOfRemoved(dcText(source)) : messages.offsetIs(dcText(source)),
    onToggle: (isOn) => onCommit({ removeDc: isOn }),
    editor: null,
  }),
});

function dcText({ perChannel }: Readings): string {
  const most = perChannel.reduce((greatest, { dcOffset }) => Math.max(greatest, Math.abs(dcOffset)), 0);
  return `${formatNumber(100 * most, 3)} %`;
}
