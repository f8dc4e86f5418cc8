/** What axe finds wrong with a page. */

import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';

/**
 * A run of axe over `page`. Our pages have no frames of another origin, so it runs in the page itself (the other way
 * opens a second page each time) and works out nothing but violations: half a second in place of two.
 */
export const axeOf = (page: Page) => new AxeBuilder({ page }).setLegacyMode().options({ resultTypes: ['violations'] });
