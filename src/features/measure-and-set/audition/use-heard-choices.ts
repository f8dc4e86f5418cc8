import { useMemo } from 'react';
import type { Readings } from '@/core/loudness/readings';
import { glance } from '@/core/treatment/forecast';
import { gainOnly, isLevelOnly, type Treatment } from '@/core/treatment/treatment';
import type { Level } from '@/core/units/decibel';
import type { Treated } from '@/features/common/use-treated';
import { PREVIEW_CODECS, type PreviewCodecId } from '@/formats/preview-codecs';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import type { Span } from '../trace/view';
import { useHeardChoicesMessages as messages } from './messages';
import { lossyPlayable, passPlayable, playableOf } from './playable';
import type { HeardChoice } from './use-audition';

/** A span heard through a codec. */
export interface LossySpan {
  codec: PreviewCodecId;
  span: Span;
}

/** What can be heard: what is set, the source as it came, every version, and what came back of outboard gear; equally loud where that is asked for. */
export function useHeardChoices(
  programme: ProgrammeView,
  source: Readings,
  treatment: Treatment,
  treated: Treated,
  isEqual: boolean,
  lossy: LossySpan | null,
): readonly HeardChoice[] {
  const { format, layoutId, versions, passes } = programme;
  const { after, source: key } = treated;
  return useMemo(() => {
    const listened = { source: key, format, layoutId };
    const rateHz = treatment.resampleHz ?? format.sampleRateHz;
    const all: { id: string; name: string; treatment: Treatment; lufs: Level }[] = [
      { id: 'treated', name: messages.currentSettings, treatment, lufs: after.integratedLufs },
      { id: 'source', name: 'before', treatment: gainOnly(0), lufs: source.integratedLufs },
      ...versions.map(({ version, name, treatment: own, predicted }) => ({
        id: `v${version}`,
        name: name ? `v${version} ${name}` : `v${version}`,
        treatment: own,
        lufs: (predicted ?? (isLevelOnly(own) ? glance(source, own) : null))?.integratedLufs ?? null,
      })),
    ];
    const came = passes.flatMap(({ number, sentName, treatment: sent, returned }) =>
      returned ? [{ number, sentName, sent, returned }] : [],
    );
    const least = Math.min(
      ...[...all.map(({ lufs }) => lufs), ...came.map(({ returned }) => returned.integratedLufs)].flatMap(
        (lufs) => lufs ?? [],
      ),
    );
    const offsetOf = (lufs: Level) => Number((isEqual && lufs !== null ? Math.min(0, least - lufs) : 0).toFixed(2));
    const choices: HeardChoice[] = all.map(({ id, name, treatment: own, lufs }) => {
      return { id, name, playable: playableOf(listened, own, rateHz, offsetOf(lufs)) };
    });
    for (const { number, sentName, sent, returned } of came) {
      const offsetDb = offsetOf(returned.integratedLufs);
      choices.push({
        id: `pass-${number}`,
        name: messages.pass(number, sentName),
        playable: passPlayable(listened, sent, returned, rateHz, offsetDb),
      });
    }
    if (!lossy) return choices;
    const name = `through ${PREVIEW_CODECS.find(({ id }) => id === lossy.codec)?.name ?? lossy.codec}`;
    const offsetDb = offsetOf(after.integratedLufs);
    return [...choices, { id: 'lossy', name, playable: lossyPlayable(listened, treatment, lossy, rateHz, offsetDb) }];
  }, [key, format, layoutId, versions, passes, source, treatment, after, isEqual, lossy]);
}
