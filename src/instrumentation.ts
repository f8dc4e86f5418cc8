/**
 * Runs once when the server process starts: interrupted work is resumed before anyone opens a page. What keeps it from starting
 * is left for whoever has started the process (src/door/serve.ts).
 */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  const [{ getServer }, { toErrorRecord }] = await Promise.all([
    import('@/server/server'),
    import('@/core/errors/app-error'),
  ]);
  try {
    getServer();
  } catch (error) {
    (globalThis as { opsimeterStartFailure?: unknown }).opsimeterStartFailure = toErrorRecord(error);
    throw error;
  }
}
