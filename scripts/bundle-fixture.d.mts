export function bundleFixture(name: string, outfile: string): Promise<void>;
