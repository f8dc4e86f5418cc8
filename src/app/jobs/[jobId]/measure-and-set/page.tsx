import { AddressNotice } from '@/features/common/address-notice';
import { MeasureAndSet } from '@/features/measure-and-set/measure-and-set';
import { AddFilesButton } from '@/features/take-in/drop-zone';
import { loadStage, type StageProps, secondsIn, specIdsIn } from '../load';

export default async function MeasureAndSetPage(props: StageProps) {
  const { job, current, specId, query, unknown, shown } = await loadStage(props);
  return (
    <MeasureAndSet
      notice={<AddressNotice unknown={unknown} shown={shown} />}
      jobId={job.id}
      programmes={job.programmes}
      current={current}
      address={{
        specId,
        otherSpecIds: specIdsIn(query.also).filter((id) => id !== specId),
        from: secondsIn(query.from),
        to: secondsIn(query.to),
        spanFrom: secondsIn(query.span),
        spanTo: secondsIn(query['span-to']),
      }}
      addFiles={
        <div className="flex flex-col items-center gap-2 rounded-card border border-dashed border-stock-2 px-3 py-3 text-center text-xs text-mute">
          Drop more mixes anywhere
          <AddFilesButton kind="plain">Choose files</AddFilesButton>
        </div>
      }
    />
  );
}
