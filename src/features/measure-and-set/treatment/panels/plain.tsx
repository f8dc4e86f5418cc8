import { type StepName, stepNamed } from '@/core/treatment/treatment';
import { definePanel, type StepPanel } from './panel';

/** The row of a step that has no panel of its own: what it does, and a switch where it has one. */
export function plainPanel(name: StepName): StepPanel {
  const step = stepNamed(name);
  return definePanel({
    name: step.title,
    steps: [name],
    state: ({ treatment, format, onCommit }) => ({
      isOn: treatment[name] !== step.off,
      summary: step.describe(treatment, format.sampleRateHz) ?? 'none',
      onToggle: step.on === undefined ? null : (isOn) => onCommit({ [name]: isOn ? step.on : step.off }),
      editor: null,
    }),
  });
}
