import yauzl from 'yauzl';

/** What a ZIP holds, in the order of its names. */
export async function namesInZip(path: string): Promise<string[]> {
  const opened = await yauzl.openPromise(path, { lazyEntries: true });
  const names: string[] = [];
  for await (const entry of opened.eachEntry()) names.push(entry.fileName);
  return names.sort();
}
