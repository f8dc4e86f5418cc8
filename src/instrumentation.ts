/** Runs once when the server process starts: interrupted work is resumed before anyone opens a page. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME === 'nodejs') (await import('@/server/server')).getServer();
}
