import { useMemo } from 'react';
import type { PassFields } from '@/core/outboard/pass';
import { treatedChannels } from '@/core/treatment/treated-channels';
import { gainOnly } from '@/core/treatment/treatment';
import type { Playable } from '@/workers/browser/audition-player';
import { playableOf } from '../audition/playable';
import { useDesk } from '../desk/desk-context';
import { outboardMessages as messages } from './messages';

/** Something that can be sent through outboard gear: what is played at the gain that it has, and what is known of it. */
export interface SentChoice {
  id: string;
  name: string;
  playable: Playable;
  fields: PassFields;
}

/** What is set, the source as it came, and every version: each at its own rate, and no quieter than it is. */
export function useSentChoices(): SentChoice[] {
  const { programme, treatment, treated, state } = useDesk();
  const { format, layoutId, versions } = programme;
  const { source } = treated;
  return useMemo(() => {
    const all = [
      {
        id: 'treated',
        name: messages.currentSettings(state.version),
        sentName: messages.settings(state.version),
        treatment,
      },
      { id: 'source', name: messages.before, sentName: messages.before, treatment: gainOnly(0) },
      ...versions.map(({ version, name, treatment: own }) => ({
        id: `v${version}`,
        name: name ? `v${version} ${name}` : `v${version}`,
        sentName: `v${version}`,
        treatment: own,
      })),
    ];
    return all.map(({ id, name, sentName, treatment: own }) => {
      const sampleRateHz = own.resampleHz ?? format.sampleRateHz;
      const playable = playableOf({ source, format, layoutId }, own, sampleRateHz, 0);
      const channels = treatedChannels(own, format.channels);
      const fields = { sentName, treatment: own, sampleRateHz, channels, frames: playable.version.frames };
      return { id, name, playable, fields };
    });
  }, [source, format, layoutId, versions, treatment, state.version]);
}
