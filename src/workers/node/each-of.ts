/** So many files are worked on at a time. */
const AT_ONCE = 2;

/** Works on some at a time, in order. Where one fails, none is begun any more; what has begun is waited for. */
export async function eachOf<T>(items: readonly T[], work: (item: T, index: number) => Promise<void>): Promise<void> {
  const left = items.entries();
  let hasFailed = false;
  const run = async () => {
    for (const [index, item] of left) {
      if (hasFailed) return;
      await work(item, index).catch((error) => {
        hasFailed = true;
        throw error;
      });
    }
  };
  const runs = await Promise.allSettled(Array.from({ length: AT_ONCE }, run));
  for (const ended of runs) if (ended.status === 'rejected') throw ended.reason;
}
