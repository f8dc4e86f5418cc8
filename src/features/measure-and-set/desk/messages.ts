/** Texts of the desk's panels, by component. */

export const headerPanelMessages = {
  charts: 'Charts',
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
  rule: 'Rule',
  spec: 'Spec',
};

export const tracePanelMessages = {
  span: 'Span',
  marker: 'Marker',
};
