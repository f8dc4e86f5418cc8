/** Files that were dropped before a page could take them: a browser would leave the page, and play them. */
interface EarlyDrops {
  files: File[];
  /** The page that they were dropped on. */
  path: string;
}

declare global {
  interface Window {
    earlyDrops?: EarlyDrops | null;
  }
}

/** Runs before anything else of a page. Once a page takes files itself, what has been dropped is its own. */
export const EARLY_DROPS_SCRIPT = `(() => {
  window.earlyDrops = { files: [], path: location.pathname };
  const hold = (event) => {
    if (!event.dataTransfer || !event.dataTransfer.types.includes('Files')) return;
    event.preventDefault();
    if (event.type === 'drop' && window.earlyDrops) window.earlyDrops.files.push(...event.dataTransfer.files);
  };
  addEventListener('dragover', hold);
  addEventListener('drop', hold);
})()`;

/** What was dropped on this page so far, once. */
export function takeEarlyDrops(): File[] {
  const { files, path } = window.earlyDrops ?? { files: [], path: '' };
  window.earlyDrops = null;
  return path === window.location.pathname ? files : [];
}
