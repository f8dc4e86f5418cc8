/** Every command of the desk: its key does something, and so does the hand where there is something to take hold of. */
import type { Locator, Page } from '@playwright/test';
import { COMMANDS, type CommandId } from '@/features/measure-and-set/commands';
import { tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';
import { dropFiles, expect, startJob, test } from './desk';
import { BURSTS } from './material';

const RATE = 48_000;
const swell = tone(
  [
    { seconds: 5, levelDbfs: -36 },
    { seconds: 4, levelDbfs: -20 },
    { seconds: 5, levelDbfs: -36 },
    { seconds: 2, levelDbfs: -50 },
  ],
  RATE,
  330,
);
/** Over the ceiling at two single samples, and clipped once. */
const WAV = wavOf(
  [swell, swell].map((samples) =>
    samples.map((x, n) => {
      if (n === 100_000 || n === 500_000) return 0.97;
      return n >= 580_000 && n < 580_030 ? 1 : x;
    }),
  ),
);

interface Trial {
  /** What the command changes. */
  read: () => Promise<unknown>;
  /** Brings about what the command can change. */
  before?: () => Promise<unknown>;
  byHand?: () => Promise<unknown>;
}

function trialsOf(page: Page, press: (...keys: string[]) => Promise<void>): Record<CommandId, Trial> {
  const plot = page.getByRole('slider', { name: /^Trace/ });
  const span = page.getByRole('group', { name: 'Span' });
  const button = (name: string | RegExp, within: Page | Locator = page) =>
    within.getByRole('button', { name, exact: typeof name === 'string' }).first();
  const pressed = (name: string): Trial => ({
    read: () => button(name).getAttribute('aria-pressed'),
    byHand: () => button(name).click(),
  });
  const gain = () => page.getByRole('slider', { name: 'Gain' }).getAttribute('aria-valuenow');
  /** Redo has nothing to do before the server has answered that the undo is done. */
  const undone = async () => {
    await press('0', 'h');
    const was = await gain();
    await press('Control+z');
    await expect.poll(gain).not.toEqual(was);
  };
  const setTo = (name: RegExp, from: string): Trial => ({
    read: gain,
    before: () => press(from),
    byHand: () => button(name).click(),
  });
  const ways = page.getByRole('list', { name: 'Options' });
  const way = (key: string): Trial => ({
    read: gain,
    before: async () => {
      if ((await page.getByRole('tab', { name: 'Options' }).count()) === 0) {
        await page.getByRole('combobox', { name: 'Spec' }).click();
        await page.getByRole('option', { name: /Music streaming/ }).click();
      }
      await page.getByRole('tab', { name: 'Options' }).click();
      await expect(ways.getByRole('button')).toHaveCount(3);
      await press('0');
    },
    byHand: () =>
      ways
        .getByRole('button')
        .nth(Number(key) - 1)
        .click(),
  });
  const clock = () => page.locator('[data-clock]').textContent();
  const listed = (tab: string | RegExp, row: string | RegExp) => async () => {
    await page.getByRole('tab', { name: tab }).click();
    const own = page.getByRole('tabpanel').getByRole('button', { name: row, pressed: false });
    await own.first().click();
  };
  const shown = async () => new URL(page.url()).search;
  const scrolled = (deltaY: number) => async () => {
    await plot.hover();
    await page.mouse.wheel(0, deltaY);
  };
  const drag = async () => {
    const box = await plot.boundingBox();
    if (!box) throw new Error('there is no trace');
    await page.mouse.move(box.x + 100, box.y + 60);
    await page.mouse.down();
    await page.mouse.move(box.x + 300, box.y + 60, { steps: 4 });
    await page.mouse.up();
  };
  const plotHeight = async () => (await plot.boundingBox())?.height;
  const spanShown = async () => ((await span.count()) === 0 ? '' : span.textContent());
  const dialog = (name: string): Trial => ({
    read: () => page.getByRole('dialog').count(),
    byHand: () => button(name).click(),
  });
  const markers = () => page.getByRole('button', { name: /^Delete/ }).count();
  const places = () => page.getByRole('tab', { name: 'Markers' }).click();

  return {
    play: {
      read: () => page.getByRole('button', { name: 'Pause' }).count(),
      byHand: () => button(/^(Play|Pause)$/).click(),
    },
    loop: pressed('Loop the span'),
    'hear-other': {
      read: () => page.getByRole('combobox', { name: 'Heard' }).textContent(),
      byHand: async () => {
        await page.getByRole('combobox', { name: 'Heard' }).click();
        await page.getByRole('option', { selected: false }).first().click();
      },
    },
    equal: pressed('equally loud'),
    mono: pressed('mono'),
    removed: pressed('removed'),
    clear: {
      read: () => button('Reset meters').isDisabled(),
      before: async () => {
        // What was heard before is not waited for, but what is heard from now on.
        if (await button('Reset meters').isEnabled()) await button('Reset meters').click();
        await expect(button('Reset meters')).toBeDisabled();
        await press('Space');
        await expect(button('Reset meters')).toBeEnabled();
        await press('Space');
        await expect(button('Play')).toBeVisible();
      },
      byHand: () => button('Reset meters').click(),
    },
    target: setTo(/^Meet the target/, '0'),
    ceiling: setTo(/^Peak at the ceiling/, '0'),
    headroom: setTo(/^6 dB of headroom/, '0'),
    'as-it-came': setTo(/^No gain/, 'h'),
    'option-1': way('1'),
    'option-2': way('2'),
    'option-3': way('3'),
    review: {
      read: async () => {
        const link = page.getByRole('link', { name: /^Download swell \(review copy/ });
        return (await link.count()) === 0 ? '' : link.getAttribute('href');
      },
      byHand: () => button('Review copy').click(),
    },
    undo: { read: gain, before: () => press('0', 'h'), byHand: () => button('Undo').click() },
    redo: { read: gain, before: undone, byHand: () => button('Redo').click() },
    'next-over': { read: clock, before: () => press('0', 'l'), byHand: listed(/^Overs/, /0:02\.083/) },
    'previous-over': { read: clock, before: () => press('0', 'l'), byHand: listed(/^Overs/, /0:10\.417/) },
    'next-clip': { read: clock, before: () => press('l'), byHand: listed('Markers', /Clipped run/) },
    'loudest-3': { read: clock, before: () => press('0', 'n'), byHand: listed('Loudest', /3 s, 1\./) },
    'loudest-10': { read: clock, before: () => press('0', 'n'), byHand: listed('Loudest', /10 s, 1\./) },
    quietest: { read: clock, before: () => press('l'), byHand: listed('Markers', /Quietest half-second/) },
    'first-sound': {
      read: clock,
      before: () => press('l', 'a'),
      byHand: () => plot.click({ position: { x: 2, y: 60 } }),
    },
    'last-sound': {
      read: clock,
      before: () => press('l', 'a'),
      byHand: () => plot.click({ position: { x: 700, y: 60 } }),
    },
    'next-marker': {
      read: clock,
      before: async () => {
        await places();
        await press('l', 'm', 'q', 'm');
        // The server has to have them before there is one to go to.
        await expect.poll(markers).toBeGreaterThanOrEqual(2);
        await press('n');
      },
      byHand: listed('Markers', /^0:1/),
    },
    'previous-marker': { read: clock, before: () => press('n'), byHand: listed('Markers', /^0:1/) },
    'span-start': { read: spanShown, before: () => press('Shift+ArrowLeft', 'n', 'Escape'), byHand: drag },
    'span-end': { read: spanShown, before: () => press('Shift+ArrowLeft', 'n', 'Escape'), byHand: drag },
    'span-none': { read: spanShown, before: () => press('l'), byHand: () => button('Clear', span).click() },
    'keep-span': {
      read: () => button(/^Trim:/).textContent(),
      before: () => press('Escape', 'k', 'l'),
      byHand: () => button('Trim to span', span).click(),
    },
    marker: {
      read: markers,
      before: async () => {
        await places();
        await press('l');
      },
      byHand: () => button('Marker', span).click(),
    },
    'zoom-in': { read: shown, before: () => press('a'), byHand: scrolled(-400) },
    'zoom-out': { read: shown, before: () => press('a', '+', '+', '+'), byHand: scrolled(400) },
    'show-all': { read: shown, before: () => press('+', '+') },
    'show-span': { read: shown, before: () => press('a', 'l') },
    height: { ...pressed('Height by decibels'), before: () => press('Escape') },
    separate: { ...pressed('Separate channels'), before: () => press('Escape') },
    look: { read: plotHeight, byHand: () => button('Look').click() },
    set: { read: plotHeight, byHand: () => button('Set').click() },
    meters: pressed('Meters'),
    analysis: pressed('Analysis'),
    say: {
      read: () => page.getByRole('group', { name: 'Live readings' }).getByRole('status').allTextContents(),
      byHand: () => button('Say').click(),
    },
    charts: { ...dialog('Charts'), before: () => press('Escape') },
    keys: { ...dialog('Keys'), before: () => press('Escape') },
  };
}

for (const group of [...new Set(COMMANDS.map((command) => command.group))]) {
  test(`every command works by its key and by hand: ${group}`, async ({ page, desk }) => {
    await startJob(page, desk, group);
    await dropFiles(page, [{ name: 'swell.wav', bytes: group === 'Set' ? BURSTS : WAV }]);
    await page.getByRole('link', { name: 'swell' }).click();
    await expect(page.getByRole('slider', { name: /^Trace/ })).toBeVisible();
    const heading = page.getByRole('heading', { name: 'swell' });
    const press = async (...keys: string[]) => {
      // Whatever has the focus keeps some keys for itself.
      if ((await page.getByRole('dialog').count()) === 0) await heading.click();
      for (const key of keys) await page.keyboard.press(key.length === 1 ? key.toLowerCase() : key);
    };
    const trials = trialsOf(page, press);
    for (const { id, key, name } of COMMANDS.filter((command) => command.group === group)) {
      const { read, before, byHand } = trials[id];
      for (const work of [() => press(key), ...(byHand ? [byHand] : [])]) {
        await before?.();
        await page.waitForTimeout(150);
        const was = await read();
        await work();
        // A review copy is solved, written and measured before it is there.
        await expect.poll(read, { message: `${name} (${key})`, timeout: 60_000 }).not.toEqual(was);
      }
      await press('Escape');
    }
  });
}
