import { Notice } from '@/ui/notice';

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
        {programme
          ? `The programme in this address is not in this job (or was removed); ${shown.title} is shown. `
          : ''}
        {specId === null ? '' : `There is no spec “${specId}” (or it was deleted); ${shown.specName} is used.`}
      </Notice>
    </div>
  );
}
