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
}

/** Puts a row on the sheet through the dialog; what is left out stays as it comes. */
export async function addDelivery(page: Page, wanted: Wanted = {}): Promise<void> {
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
  await dialog.getByRole('button', { name: /^Add/ }).click();
  await expect(dialog).toBeHidden();
}

/** Goes to the sheet, puts a row on it and has it written. */
export async function handOver(page: Page, wanted: Wanted = {}): Promise<void> {
  await page.getByRole('link', { name: 'Hand over' }).click();
  await addDelivery(page, wanted);
  await page.getByRole('button', { name: /^Write \d/ }).click();
}
