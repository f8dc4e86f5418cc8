/** Texts of the desk's panels, by component. */

export const headerPanelMessages = {
  deliver: 'Deliver',
  deliverHint: (spec: string) =>
    `Write it with the current settings, in a file for ${spec}. The written file is measured again. What would miss the spec waits for you on Hand over.`,
};

export const deskLayoutMessages = {
  names: {
    trace: 'Trace',
    rule: 'Rule',
    cards: 'Treatment, readings, places',
    treatment: 'Treatment',
    readings: 'Readings',
    places: 'Options, overs, places',
  },
  fold: (name: string) => `Fold ${name}`,
  unfold: (name: string) => `Unfold ${name}`,
  border: 'Border: drag it, or move it with the arrow keys',
};

export const reviewCopyMessages = {
  write: 'Review copy',
  hint: (spec: string, isLimited: boolean) =>
    `Write a small file that meets ${spec} as far as ${isLimited ? 'gain and the limiter reach' : 'gain alone reaches'}; it is no delivery`,
  heading: 'Review copy',
  download: (fileName: string) => `Download ${fileName}`,
  close: 'Close',
};

export const rulePanelMessages = {
  arrangements: {
    look: { name: 'Look', hint: (key: string) => `Trace and rule large; once more: as at first (${key})` },
    set: { name: 'Set', hint: (key: string) => `Rule and treatment large; once more: as at first (${key})` },
  },
  rule: 'Rule',
  spec: 'Spec',
  charts: 'Charts',
  chartsHint: (key: string) =>
    `How it will play, loudness distribution and history, all programmes side by side (${key})`,
  analysis: 'Analysis',
  analysisHint: (key: string) =>
    `Beside the trace: spectrum, stereo, peaks, thirds of the programme, what the limiter does (${key})`,
  meters: 'Meters',
  metersHint: (key: string) =>
    `The rule in motion: the programme as it is heard, in place of how it was calculated (${key})`,
};

export const tracePanelMessages = {
  span: 'Span',
  marker: 'Marker',
};
