import Link from 'next/link';
import type { ComponentProps } from 'react';

/**
 * A link to a page that shows work as it stands. It is fetched when it is followed and not ahead: pages fetched ahead are
 * drawn again whenever a task ends, and take the machine from the task that runs.
 */
export function WorkLink(props: ComponentProps<typeof Link>) {
  return <Link prefetch={false} {...props} />;
}
