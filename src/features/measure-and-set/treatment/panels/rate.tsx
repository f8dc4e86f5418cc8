import { rescaledSteps } from '@/core/treatment/treatment';
import { formatSampleRate } from '@/core/units/format';
import { Segments } from '@/ui/segments';
import { rateMessages as messages } from './messages';
import { definePanel } from './panel';

const RATES_HZ = [44_100, 48_000, 88_200, 96_000] as const;

export const ratePanel = definePanel({
  name: messages.rate,
  steps: ['resampleHz'],
  state: ({ treatment, format, rateHz, onCommit }) => {
    const { resampleHz } = treatment;
    const set = (next: number) =>
      onCommit({
        ...rescaledSteps(treatment, next / rateHz),
        resampleHz: next === format.sampleRateHz ? null : next,
      });
    return {
      isOn: resampleHz !== null && resampleHz !== format.sampleRateHz,
      summary: formatSampleRate(rateHz) + (rateHz === format.sampleRateHz ? ', unchanged' : ', resampled'),
      onToggle: (isOn) => set(isOn ? (format.sampleRateHz === 48_000 ? 44_100 : 48_000) : format.sampleRateHz),
      editor: (
        <>
          <Segments
            label={messages.sampleRate}
            value={`${rateHz}`}
            options={[...new Set([format.sampleRateHz, ...RATES_HZ])].map((value) => ({
              value: `${value}`,
              label: formatSampleRate(value),
            }))}
            onChange={(value) => set(Number(value))}
          />
          <p className="max-w-72 text-xs text-mute">{messages.whatItDoes}</p>
        </>
      ),
    };
  },
});
