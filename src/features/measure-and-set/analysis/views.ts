/** What can be looked at of a programme's sound, in the order in which it is offered. */
export const ANALYSIS_VIEWS = ['spectrum', 'stereo', 'peaks', 'thirds', 'limiter'] as const;
export type AnalysisView = (typeof ANALYSIS_VIEWS)[number];

/** No view is drawn smaller, in pixels. */
export const LEAST_VIEW = { width: 300, height: 170 };

/** How many views a panel of some size has room for. */
export function viewsThatFit({ width, height }: { width: number; height: number }): number {
  const holds = (length: number, least: number) => Math.max(1, Math.floor(length / least));
  return holds(width, LEAST_VIEW.width) * holds(height, LEAST_VIEW.height);
}

/** What is open once a view's name is pressed: it is added or taken away, and what does not fit any more goes, the oldest first. */
export function pressView(open: readonly AnalysisView[], view: AnalysisView, fitting: number): AnalysisView[] {
  if (open.includes(view)) return open.filter((own) => own !== view);
  return [...open, view].slice(-fitting);
}
