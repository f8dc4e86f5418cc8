import { isFfmpegThere } from '@/codecs/ffmpeg';
import { AddressNotice } from '@/features/common/address-notice';
import { Hydrated, known } from '@/features/common/data/hydrated';
import { namesQuery, programmeQuery, sheetQuery } from '@/features/common/data/queries';
import { HandOver } from '@/features/hand-over/hand-over';
import { viewSheet } from '@/server/deliveries/sheet';
import { viewProgramme } from '@/server/jobs/programme-view';
import { listReceivers } from '@/server/receivers/receivers';
import { getServer } from '@/server/server';
import { loadStage, type StageProps } from '../load';

export default async function HandOverPage(props: StageProps) {
  const { jobId, asOf, names, currentId, isAll, specId, unknown, shown } = await loadStage(props);
  const server = getServer();
  const programmeId = isAll ? null : currentId;
  return (
    <Hydrated
      asOf={asOf}
      data={[
        known(namesQuery(jobId), names),
        known(sheetQuery(jobId, programmeId), viewSheet(server, jobId, programmeId)),
        ...(isAll ? [] : [known(programmeQuery(currentId), viewProgramme(server, currentId))]),
      ]}
    >
      <AddressNotice unknown={unknown} shown={shown} />
      <HandOver
        jobId={jobId}
        programmeId={programmeId}
        receivers={listReceivers(server)}
        specId={specId}
        hasFfmpeg={await isFfmpegThere()}
      />
    </Hydrated>
  );
}
