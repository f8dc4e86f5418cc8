import { ReadingsTable } from '../readings-table';
import { useDesk } from './desk-context';

/** What was read of the source, and what is forecast of it treated. */
export function ReadingsPanel() {
  const { programme, measured, treated, verdict, treatment } = useDesk();
  const { format, layoutId, sha256 } = programme;
  return (
    <ReadingsTable
      before={measured.readings}
      after={treated.after}
      verdict={verdict}
      gainDb={treatment.gainDb}
      format={format}
      layoutId={layoutId}
      sha256={sha256}
    />
  );
}
