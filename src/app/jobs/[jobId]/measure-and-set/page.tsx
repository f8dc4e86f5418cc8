import { cookies } from 'next/headers';
import { AddressNotice } from '@/features/common/address-notice';
import { Hydrated, known } from '@/features/common/data/hydrated';
import { PART_ROWS, programmeQuery, programmesQuery } from '@/features/common/data/queries';
import { DESK_COOKIE, readDesk } from '@/features/measure-and-set/desk/kept-desk';
import { MeasureAndSet } from '@/features/measure-and-set/measure-and-set';
import { AddFilesButton } from '@/features/take-in/drop-zone';
import { listProgrammes } from '@/server/jobs/programme-list';
import { viewProgramme } from '@/server/jobs/programme-view';
import { getServer } from '@/server/server';
import { loadStage, type StageProps } from '../load';
import { pageMessages as messages } from './messages';

export default async function MeasureAndSetPage(props: StageProps) {
  const { jobId, asOf, names, currentId, specId, unknown, shown } = await loadStage(props);
  const server = getServer();
  const position = Math.max(
    0,
    names.findIndex(({ id }) => id === currentId),
  );
  const part = Math.floor(position / PART_ROWS);
  const window = { offset: part * PART_ROWS, limit: PART_ROWS };
  return (
    <Hydrated
      asOf={asOf}
      data={[
        known(programmeQuery(currentId), viewProgramme(server, currentId)),
        known(programmesQuery(jobId, specId, part), listProgrammes(server, jobId, specId, window)),
      ]}
    >
      <MeasureAndSet
        notice={<AddressNotice unknown={unknown} shown={shown} />}
        jobId={jobId}
        currentId={currentId}
        position={position}
        total={names.length}
        specId={specId}
        kept={readDesk((await cookies()).get(DESK_COOKIE)?.value)}
        addFiles={
          <div className="flex flex-col items-center gap-2 rounded-card border border-dashed border-stock-2 px-3 py-3 text-center text-xs text-mute">
            {messages.dropMoreMixesAnywhere}
            <AddFilesButton kind="plain">{messages.chooseFiles}</AddFilesButton>
          </div>
        }
      />
    </Hydrated>
  );
}
