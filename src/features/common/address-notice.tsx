import { Notice } from '@/ui/notice';
import { addressNoticeMessages as messages } from './messages';

/** What an address asks for that is not there. */
export interface Unknown {
  programme: boolean;
  /** Id of a spec; null where the one that is asked for is there, or none is. */
  specId: string | null;
}

/** Says that an address named something that is not there, and what is shown in its place. */
export function AddressNotice({
  unknown: { programme, specId },
  shown,
}: {
  unknown: Unknown;
  shown: { title: string; specName: string };
}) {
  if (!programme && specId === null) return null;
  return (
    <div className="px-4 pt-2">
      <Notice>
        {programme ? messages.noSuchProgramme(shown.title) : ''}
        {specId === null ? '' : messages.noSuchSpec(specId, shown.specName)}
      </Notice>
    </div>
  );
}
