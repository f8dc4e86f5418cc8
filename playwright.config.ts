import { existsSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { defineConfig } from '@playwright/test';

// What tests seal is sealed with a key of their own, not with that of whoever runs them.
process.env.OPSIMETER_KEY_FILE ??= join(tmpdir(), 'opsimeter-tests', 'key');

/** Debian's own browser; nothing is downloaded. */
const chromium = process.env.OPSIMETER_CHROMIUM ?? ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync);

export default defineConfig({
  testDir: 'e2e',
  // Each with a server of its own. Three would be done a minute sooner, with less room for what else a machine does.
  workers: 2,
  // Of what hangs: what holds takes a fifth of it alone, and a machine may be busy with more.
  timeout: 180_000,
  // Pictures that were looked at; letters are smoothed a little otherwise from one version of the browser to the next.
  snapshotPathTemplate: 'e2e/pictures/{arg}{ext}',
  expect: { timeout: 30_000, toHaveScreenshot: { maxDiffPixelRatio: 0.004, animations: 'disabled' } },
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      ...(chromium === undefined ? {} : { executablePath: chromium }),
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
