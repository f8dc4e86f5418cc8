'use client';

import { Popover } from 'radix-ui';
import { describeTreatment } from '@/core/treatment/treatment';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { renameVersion } from '@/features/common/treatment-actions';
import { useAct } from '@/features/common/use-act';
import type { VersionView } from '@/server/jobs/programme-view';
import { Button } from '@/ui/button';
import { TypedField } from '@/ui/typed-field';
import type { Steps } from '../use-treatment';
import { versionsMessages as messages } from './messages';

/** The numbered versions of a treatment: to be named, and to go back to. */
export function Versions({
  programmeId,
  current,
  versions,
  onUse,
}: {
  programmeId: string;
  current: number;
  versions: readonly VersionView[];
  onUse: (steps: Steps) => void;
}) {
  const { act, error } = useAct(useChanged());
  if (current === 0) return <span className="px-1">{messages.notSet}</span>;
  const rename = (version: number, name: string) => act(() => renameVersion(programmeId, version, name));
  const now = versions.find(({ version }) => version === current);
  return (
    <Popover.Root>
      <Popover.Trigger className="cursor-pointer rounded-sm px-1 font-semibold text-slide-ink hover:underline">
        v{current}
        {now ? stateText(now) : ''}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={messages.versions}
          align="end"
          sideOffset={6}
          collisionPadding={8}
          className="z-30 flex max-h-96 w-md flex-col gap-1 overflow-y-auto rounded-card border border-hair bg-sheet p-3.5 text-[13px] shadow-lg"
        >
          <p className="text-sm font-bold">{messages.versions}</p>
          <p className="mb-1 text-xs text-mute">{messages.whatIsKept}</p>
          <ErrorNotice error={error} />
          <ul className="flex flex-col gap-1.5">
            {[...versions].reverse().map((version) => (
              <li key={version.version} className="flex items-start gap-2 border-t border-hair pt-1.5">
                <span className="w-8 shrink-0 font-mono font-bold">v{version.version}</span>
                <div className="min-w-0 grow">
                  <TypedField
                    label={messages.nameOfVersion(version.version)}
                    isLabelled={false}
                    value={version.name}
                    format={(name) => name}
                    parse={(text) => (text.length <= 120 ? text.trim() : undefined)}
                    onCommit={(name) => name !== version.name && void rename(version.version, name)}
                    className="w-full text-left font-sans"
                  />
                  <p className="text-xs text-mute">
                    {[summaryOf(version), stateText(version).slice(3)].filter(Boolean).join(' · ')}
                  </p>
                </div>
                <Button
                  className="py-0.5 text-xs"
                  disabled={version.version === current}
                  onClick={() => onUse(version.treatment)}
                >
                  {version.version === current ? messages.current : messages.goBack}
                </Button>
              </li>
            ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function stateText({ isHeard, isWritten }: VersionView): string {
  return isWritten ? ' · written' : isHeard ? ' · heard' : '';
}

/** Lengths in frames are told at the rate they were set at, which a version states only if it is not the source's. */
function summaryOf({ treatment }: VersionView): string {
  const steps = describeTreatment(
    { ...treatment, trim: null, paddingStart: null, paddingEnd: null, fadeIn: null, fadeOut: null },
    1,
  );
  const { trim, paddingStart, paddingEnd, fadeIn, fadeOut } = treatment;
  const edges = [trim && 'trim', (paddingStart || paddingEnd) && 'padding', (fadeIn || fadeOut) && 'fades'];
  return [...steps, ...edges].filter(Boolean).join(', ') || 'unchanged';
}
