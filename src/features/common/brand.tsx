import { WorkLink } from '@/ui/work-link';
import { brandMessages as messages } from './messages';

/** The name, with a stock and a slide shifted against each other. */
export function Brand() {
  return (
    <WorkLink href="/" className="flex items-center gap-2.5 rounded-control text-lg font-bold text-on-action">
      <svg viewBox="0 0 32 20" className="h-5 w-8" aria-hidden>
        <rect x="1" y="2" width="24" height="8" rx="2" className="fill-[#cfc6e2]" />
        <rect x="7" y="10" width="24" height="8" rx="2" className="fill-[#3d9aa6]" />
        <path d="M16 4 v12" className="stroke-[#ff7a55]" strokeWidth="2" />
      </svg>
      {messages.opsimeter}
    </WorkLink>
  );
}
