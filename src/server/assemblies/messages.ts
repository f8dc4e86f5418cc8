/** Texts of records, books and films that are written, by file. */
import { formatSampleRate } from '@/core/units/format';

export const writeBookMessages = {
  beyondTheEnd: 'it ends behind the end of the programme',
};

export const filmMessages = {
  noFilm: 'no programme of this line-up is sound of a film',
  otherFilm: 'it is not sound of this film',
  takesNoPcm: (kind: string) => `tracks that were put together go back as PCM, which ${kind} does not take here`,
  otherLength: 'its file is not as long as what it replaces: sound that goes back keeps the length of its film',
  otherChannels: (has: number, wants: number) =>
    `its file has ${has === 1 ? '1 channel' : `${has} channels`}, for ${wants} tracks`,
  twice: (track: number) => `two programmes go into track ${track}`,
  goesInAs: (
    kind: string,
    tracks: string,
    codec: string,
    {
      bitDepth,
      bitRateKbps,
      sampleRateHz,
    }: { bitDepth: number | null; bitRateKbps: number | null; sampleRateHz: number },
  ) => {
    const samples = bitDepth === 32 ? ' 32-bit float' : bitDepth === null ? '' : ` ${bitDepth}-bit`;
    const coded = bitDepth === null && bitRateKbps !== null ? ` ${bitRateKbps} kbit/s` : '';
    const number = /\D/.test(tracks) ? `tracks ${tracks}` : `track ${tracks}`;
    return `${kind.toUpperCase()}, ${number}: ${codec}${samples}${coded} · ${formatSampleRate(sampleRateHz)}`;
  },
  certificates: (name: string) => `${name} certificates`,
};

export const assemblyMessages = {
  isBeingWritten: 'another one of this line-up is being written',
};
