/** Takes the pictures of docs/screenshots from a running demo, or some of them: node scripts/screenshots.mjs [address] [name …]. */
import { execFileSync, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';

const address = process.argv[2] ?? 'http://127.0.0.1:4170';
const only = process.argv.slice(3);
const executablePath = process.env.OPSIMETER_CHROMIUM ?? '/usr/bin/chromium';
/** What a visit has started and has to end. */
const ends = [];
const browser = await chromium.launch({ executablePath, args: ['--no-sandbox', '--disable-gpu'] });

for (const [name, colorScheme, visit] of [
  ['jobs', 'light', (page) => page.goto(address)],
  ['take-in', 'light', (page) => stage(page, 'Take in')],
  ['measure-and-set', 'light', (page) => programme(page, 'Radio spot')],
  ['picture', 'dark', (page) => inPicture(page, 'Season trailer, tracks 3-8')],
  ['options', 'light', (page) => options(page, 'Radio spot', 'podcast-stereo')],
  ['charts', 'light', (page) => chart(page, 'Nightfall overture', 'Loudness distribution')],
  ['line-up', 'light', (page) => lineUp(page)],
  ['line-up-book', 'light', (page) => book(page)],
  ['line-up-stems', 'light', (page) => stems(page)],
  ['hand-over', 'light', (page) => handOver(page)],
  ['receivers', 'light', (page) => page.goto(`${address}/receivers?receiver=network-desk`)],
  ['specs', 'light', (page) => page.goto(`${address}/specs?spec=audiobook-retail&with=podcast-mono`)],
  ['storage', 'light', (page) => page.goto(`${address}/storage`)],
  ['people', 'light', (page) => people(page)],
  ['analysis', 'light', (page) => analysed(page, 'Perseid bed')],
  ['lines', 'light', (page) => lines(page)],
  ['line', 'light', (page) => line(page, 'Dome feed')],
  // It adds a programme: behind what shows those of the demo.
  ['outboard', 'light', (page) => outboard(page, 'Radio spot')],
  // It changes a treatment: last.
  ['meters', 'dark', (page) => inMotion(page, 'Radio spot')],
]) {
  if (only.length > 0 && !only.includes(name)) continue;
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme })).newPage();
  await visit(page);
  // The event stream never falls silent, so a moment has to do for the trace to be drawn.
  await page.waitForTimeout(1500);
  await page.screenshot({ path: `docs/screenshots/${name}.png` });
}
await browser.close();
for (const end of ends) await end();

/** Who may use an app that other machines reach: served apart, since the demo needs nobody to sign in. */
async function people(page) {
  const folder = mkdtempSync(join(tmpdir(), 'opsimeter-people-'));
  const own = { OPSIMETER_DATA: join(folder, 'data'), OPSIMETER_KEY_FILE: join(folder, 'key') };
  const env = { ...process.env, ...own, NODE_ENV: 'production', OPSIMETER_PEOPLE: '1', PORT: '4385' };
  const passphrase = 'a comet over the harbour';
  execFileSync(process.execPath, ['bin/opsimeter.mjs', 'people', 'add', 'Ana Lund'], { input: `${passphrase}\n`, env });
  const server = spawn(process.execPath, ['scripts/serve.mjs'], { env, stdio: ['ignore', 'pipe', 'inherit'] });
  ends.push(async () => {
    server.kill('SIGTERM');
    await once(server, 'exit');
    rmSync(folder, { recursive: true, force: true });
  });
  await new Promise((resolve) => {
    server.stdout.on('data', (bytes) => String(bytes).includes('is at') && resolve());
  });
  await page.goto('http://127.0.0.1:4385/people');
  await page.getByLabel('Name').fill('Ana Lund');
  await page.getByLabel('Passphrase').fill(passphrase);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.waitForURL((url) => url.pathname === '/people');
  const list = page.getByRole('list', { name: 'People' });
  for (const name of ['Rolf Aas', 'Mira Quist']) {
    await page.getByRole('textbox', { name: 'Name', exact: true }).fill(name);
    await page.locator('input[type=password]').fill(passphrase);
    await page.getByRole('button', { name: 'Add person' }).click();
    await list.getByText(name).waitFor();
  }
  await page.getByLabel('Name of the program').fill('Night upload');
  await page.getByRole('button', { name: 'Make token' }).click();
  await page.getByText('shown this once').waitFor();
  await page.reload();
  await list.waitFor();
}

async function openJob(page) {
  await page.goto(address);
  await page.getByRole('link', { name: /^Quillmere/ }).click();
  await page.waitForURL(/measure-and-set/);
}

async function stage(page, name) {
  await openJob(page);
  await page.getByRole('link', { name, exact: true }).click();
  await page.getByRole('table').first().waitFor();
}

/** The desk of a programme with two views of its sound. */
async function analysed(page, title) {
  await openJob(page);
  await page
    .getByRole('link', { name: new RegExp(`^${title}`) })
    .first()
    .click();
  await page.getByRole('heading', { name: title }).first().click();
  for (const key of ['w', 'p']) await page.keyboard.press(key);
  await page.getByRole('button', { name: 'Stereo', exact: true }).click();
  await page.getByText(/^Mono loses/).waitFor();
}

/** Every line at a glance, once they have sounded for a while. */
async function lines(page) {
  await page.goto(`${address}/live`);
  await page.waitForTimeout(20_000);
}

/** A line that gets too hot for a moment, and is recorded. */
async function line(page, name) {
  await lines(page);
  await page.getByRole('link', { name: `Open ${name}` }).click();
  await page.getByRole('button', { name: 'Record', exact: true }).click();
  for (let i = 0; i < 2; i++) {
    await page.getByRole('button', { name: 'Too hot' }).click();
    await page.waitForTimeout(700);
  }
  await page.keyboard.press('m');
  await page.waitForTimeout(15_000);
}

/** The record, with one gain for all. */
async function lineUp(page) {
  await openJob(page);
  await page.getByRole('link', { name: 'Line up', exact: true }).click();
  await page.getByRole('button', { name: 'Whole at the target' }).click();
  await page.getByRole('row', { name: /^Move Saturn waltz/ }).click();
  await page.getByText(/whole −[\d.]+ LUFS$/).waitFor();
}

/** The book, once its chapters were written, or said not to meet their spec. */
async function book(page) {
  await openJob(page);
  await page.getByRole('link', { name: 'Line up', exact: true }).click();
  await page.getByRole('link', { name: /^Audio guide/ }).click();
  await page.getByRole('button', { name: /^Deliver all/ }).click();
  await page.getByText('7 written and verified').waitFor();
}

/** The stems, once they were held against their mix. */
async function stems(page) {
  await openJob(page);
  await page.getByRole('link', { name: 'Line up', exact: true }).click();
  await page.getByRole('link', { name: /^Eclipse stems/ }).click();
  await page.getByText(/^▲\s*do not add up/).waitFor();
}

/** The sheet, once every row is forecast, and what is sent has been answered. */
async function handOver(page) {
  await stage(page, 'Hand over');
  await page.getByText('forecast ◆').nth(1).waitFor();
  await page.getByText('by Network intake').waitFor();
}

/** Where the ceiling stops the gain, with the way chosen that reaches the target. */
async function options(page, title, spec) {
  await programme(page, title);
  const address = new URL(page.url());
  address.searchParams.set('spec', spec);
  await page.goto(address.href);
  await page.getByRole('list', { name: 'Options' }).getByRole('button').last().click();
}

/** So near to an over that the signal between its samples is seen. */
/** A film, at rest on one of its pictures. */
async function inPicture(page, title) {
  await programme(page, title);
  await page.getByRole('tab', { name: 'Picture' }).click();
  const trace = page.getByRole('slider', { name: /^Trace/ });
  const { x, y, width, height } = await trace.boundingBox();
  await page.mouse.click(x + 0.56 * width, y + height / 2);
  await page.waitForFunction(() => document.querySelector('video')?.readyState >= 2);
}

/** The rule in motion, some seconds on, its limiter at work. */
async function inMotion(page, title) {
  await programme(page, title);
  await page.getByRole('checkbox', { name: 'Limiter on' }).check();
  await page.getByLabel('gain', { exact: true }).fill('4');
  await page.keyboard.press('Enter');
  await page.getByRole('heading', { name: title, level: 1 }).click();
  await page.keyboard.press('w');
  await page.keyboard.press('Space');
  await page.getByText(/^0:11 measured/).waitFor();
}

async function chart(page, title, name) {
  await programme(page, title);
  await page.getByRole('slider', { name: /^Trace/ }).waitFor();
  await page.getByRole('button', { name: 'Charts' }).click();
  await page.getByRole('tab', { name }).click();
}

/** A pass through the simulated gear under way, with one that came back. */
async function outboard(page, title) {
  await programme(page, title);
  await page.getByRole('button', { name: 'Outboard' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('combobox', { name: 'Comes back at' }).click();
  await page.getByRole('option', { name: 'Simulated gear' }).click();
  await dialog.getByRole('button', { name: /^Start/ }).click();
  await dialog.getByText('ms later').waitFor({ timeout: 90_000 });
  await dialog.getByRole('button', { name: /^Start/ }).click();
  await page.waitForTimeout(12_000);
}

async function programme(page, title) {
  await openJob(page);
  // What came back of it through outboard gear stands behind it.
  await page.getByRole('link', { name: title }).first().click();
  await page.getByRole('heading', { name: title, level: 1 }).waitFor();
}
