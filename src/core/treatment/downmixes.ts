/** What more than two channels are mixed down to. */
export const DOWNMIXES = ['stereo', 'mono'] as const;
export type DownmixTo = (typeof DOWNMIXES)[number];
