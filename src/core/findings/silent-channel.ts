import { advice, breach, defineFinding } from './finding';

export const silentChannel = defineFinding({
  code: 'silent-channel',
  step: 'mix',
  criterion: 'a channel other than the LFE is digital silence while others sound',
  short: () => 'silent channel',
  look({ readings: { samplePeakDbfs, perChannel }, facts }) {
    if (samplePeakDbfs === null) return null;
    const silent = perChannel.filter((channel) => channel.samplePeakDbfs === null && channel.label !== 'LFE');
    if (silent.length === 0) return null;
    const say = perChannel.length === 2 ? breach : advice;
    return say(
      `${silent.map(({ label }) => label).join(', ')}: digital silence throughout, while other channels carry sound. Was a channel lost?`,
      silent.map(({ label }) => ({ startFrame: 0, frames: facts.frames, channel: label })),
    );
  },
});
