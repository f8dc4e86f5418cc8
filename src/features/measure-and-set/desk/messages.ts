/** Texts of the desk's panels, by component. */

export const headerPanelMessages = {
  charts: 'Charts',
};

export const rulePanelMessages = {
  rule: 'Rule',
  spec: 'Spec',
};

export const tracePanelMessages = {
  span: 'Span',
  marker: 'Marker',
};
