import { advice, defineFinding } from './finding';

export const tracksOfObjects = defineFinding({
  code: 'tracks-of-objects',
  criterion: 'the file has an audio definition (ADM) whose tracks are more than channels for loudspeakers',
  look({ facts: { hasObjects } }) {
    if (!hasObjects) return null;
    return advice(
      'The channels are tracks of an audio definition (ADM) with objects: they are measured as they are, which is not what is heard. Render them for loudspeakers (File, or --render).',
    );
  },
});
