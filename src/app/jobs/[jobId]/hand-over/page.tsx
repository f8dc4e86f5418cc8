import { isFfmpegThere } from '@/codecs/ffmpeg';
import { AddressNotice } from '@/features/common/address-notice';
import { HandOver } from '@/features/hand-over/hand-over';
import { viewSheet } from '@/server/deliveries/sheet';
import { listReceivers } from '@/server/receivers/receivers';
import { getServer } from '@/server/server';
import { ALL, loadStage, type StageProps } from '../load';

export default async function HandOverPage(props: StageProps) {
  const { job, current, specId, query, unknown, shown } = await loadStage(props);
  return (
    <>
      <AddressNotice unknown={unknown} shown={shown} />
      <HandOver
        jobId={job.id}
        programmes={job.programmes}
        current={query.programme === ALL ? null : current}
        sheet={viewSheet(getServer(), job)}
        receivers={listReceivers(getServer())}
        specId={specId}
        hasFfmpeg={await isFfmpegThere()}
      />
    </>
  );
}
