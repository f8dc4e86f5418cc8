/** What axe finds wrong with a page. */

import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';

/**
 * A run of axe over `page`. Our pages have no frames of another origin, so it runs in the page itself (the other way
 * opens a second page each time) and works out nothing but violations: half a second in place of two.
 */
export const axeOf = (page: Page) => new AxeBuilder({ page }).setLegacyMode().options({ resultTypes: ['violations'] });

/** While a page is fetched again it is without a title for a moment: what is wrong for longer is found. */
export async function expectAccessible(page: Page): Promise<void> {
  await expect(async () => {
    expect((await axeOf(page).analyze()).violations).toEqual([]);
  }).toPass({ timeout: 25_000 });
}
