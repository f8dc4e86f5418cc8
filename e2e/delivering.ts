import { expect, type Page } from '@playwright/test';

export interface Wanted {
  spec?: RegExp;
  file?: string;
  channels?: string;
  rate?: string;
  depth?: string;
  mode?: string;
  bitRate?: string;
  levels?: string;
  receiver?: RegExp;
}

/** The boxes that say which rows are to be written. */
const ticks = (page: Page) => page.getByRole('checkbox', { name: /^Write / });

/** Puts a row on the sheet through the dialog and has it predicted; what is left out stays as it comes. */
export async function addDelivery(page: Page, wanted: Wanted = {}): Promise<void> {
  await expect(page.getByRole('button', { name: 'Add a delivery' }).first()).toBeVisible();
  const rows = await ticks(page).count();
  await page.getByRole('button', { name: 'Add a delivery' }).first().click();
  const dialog = page.getByRole('dialog', { name: 'Add a delivery' });
  const choose = async (label: string, option: string | RegExp | undefined) => {
    if (option === undefined) return;
    await dialog.getByRole('combobox', { name: label, exact: true }).click();
    await page
      .getByRole('option', typeof option === 'string' ? { name: option } : { name: option })
      .first()
      .click();
  };
  const tick = async (label: string, option: string | undefined) => {
    if (option === undefined) return;
    await dialog.getByRole('radiogroup', { name: label }).getByRole('radio', { name: option, exact: true }).click();
  };
  await choose('Spec', wanted.spec);
  await choose('File', wanted.file);
  await tick('Channels', wanted.channels);
  await choose('Rate', wanted.rate);
  await tick('Mode', wanted.mode);
  await choose('Bit rate', wanted.bitRate);
  await tick('Depth', wanted.depth);
  await tick('Levels', wanted.levels);
  await choose('Receiver', wanted.receiver);
  await dialog.getByRole('button', { name: /^Add/ }).click();
  await expect(dialog).toBeHidden();
  await expect(ticks(page)).toHaveCount(rows + 1);
  // It is ticked by itself, or not, as soon as it is known where it will land.
  await expect(page.getByText('forecasting …')).toHaveCount(0);
}

/** Goes to the sheet, puts a row on it and has it written, wherever it will land. */
export async function handOver(page: Page, wanted: Wanted = {}): Promise<void> {
  await page.getByRole('link', { name: 'Hand over' }).click();
  await addDelivery(page, wanted);
  await ticks(page).last().check();
  await page.getByRole('button', { name: /^Write \d/ }).click();
}
