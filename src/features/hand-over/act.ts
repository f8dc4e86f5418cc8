import type { ActionResult } from '@/features/common/action-result';

/** Does something on the server, says what went wrong, and has the page as it is then. */
export type Act = <T>(work: () => Promise<ActionResult<T>>, done?: (value: T) => void) => unknown;
