import type { ReactNode } from 'react';
import { classNames } from '@/ui/class-names';
import { WorkLink } from '@/ui/work-link';

export interface SideListItem {
  id: string;
  href: string;
  label: ReactNode;
}

/** Things to choose from at the side of a screen, in groups; a group with nothing in it is not shown. */
export function SideList({
  label,
  groups,
  currentId,
}: {
  label: string;
  groups: readonly { title: string; items: readonly SideListItem[] }[];
  currentId: string;
}) {
  return (
    <nav aria-label={label} className="flex flex-col gap-3">
      {groups
        .filter(({ items }) => items.length > 0)
        .map(({ title, items }) => (
          <div key={title}>
            <h2 className="mb-1 px-2 text-xs text-mute">{title}</h2>
            <ul>
              {items.map(({ id, href, label: own }) => (
                <li key={id}>
                  <WorkLink
                    href={href}
                    aria-current={id === currentId ? 'page' : undefined}
                    className={classNames(
                      'block rounded-control px-2 py-1 text-sm',
                      id === currentId ? 'bg-stock-1 font-bold' : 'hover:bg-stock-1/60',
                    )}
                  >
                    {own}
                  </WorkLink>
                </li>
              ))}
            </ul>
          </div>
        ))}
    </nav>
  );
}
