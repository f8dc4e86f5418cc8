import { isFfmpegThere } from '@/codecs/ffmpeg';
import { HandOver } from '@/features/hand-over/hand-over';
import { viewSheet } from '@/server/deliveries/sheet';
import { listReceivers } from '@/server/receivers/receivers';
import { getServer } from '@/server/server';
import { loadStage, type StageProps } from '../load';

export default async function HandOverPage(props: StageProps) {
  const { job, current, specId, query } = await loadStage(props);
  return (
    <HandOver
      jobId={job.id}
      programmes={job.programmes}
      current={query.programme === 'all' ? null : current}
      sheet={viewSheet(getServer(), job)}
      receivers={listReceivers(getServer())}
      specId={specId}
      hasFfmpeg={await isFfmpegThere()}
    />
  );
}
