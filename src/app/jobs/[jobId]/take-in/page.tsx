import { isFfmpegThere } from '@/codecs/ffmpeg';
import { loadAddress } from '@/features/common/address';
import { AddressNotice } from '@/features/common/address-notice';
import { Hydrated, known } from '@/features/common/data/hydrated';
import { PART_ROWS, takenInQuery, WHOLE_LISTING } from '@/features/common/data/queries';
import { MediaBrowser } from '@/features/take-in/media-browser';
import { TakeIn } from '@/features/take-in/take-in';
import { specInUse } from '@/server/jobs/jobs';
import { listTakenIn } from '@/server/jobs/take-in-list';
import { getServer } from '@/server/server';
import { mediaRoots } from '@/server/take-in/media';
import { settleReferences } from '@/server/take-in/reference';
import { loadJob, type StageProps, unknownSpec } from '../load';
import { pageMessages as messages } from './messages';

export default async function TakeInPage({ params, searchParams }: StageProps) {
  const { id: jobId } = loadJob((await params).jobId);
  const server = getServer();
  await settleReferences(server, jobId);
  const roots = mediaRoots().map(({ name }) => name);
  const { spec } = await loadAddress(searchParams);
  const used = specInUse(server, jobId, spec);
  const asked = { ...WHOLE_LISTING, specId: used.id, offset: 0, limit: PART_ROWS };
  return (
    <Hydrated
      asOf={server.events.lastId}
      data={[known(takenInQuery(jobId, used.id, WHOLE_LISTING, 0), listTakenIn(server, jobId, asked))]}
    >
      <div className="mx-auto flex max-w-[1600px] flex-col gap-3 p-4">
        <AddressNotice
          unknown={{ programme: false, specId: unknownSpec(spec, used.id) }}
          shown={{ title: '', specName: used.name }}
        />
        <header className="flex items-center justify-between gap-4">
          <h1 className="text-xl font-bold">{messages.takeIn}</h1>
          {roots.length > 0 ? <MediaBrowser jobId={jobId} roots={roots} /> : null}
        </header>
        {(await isFfmpegThere()) ? null : <p className="text-sm text-mute">{messages.withoutFfmpeg}</p>}
        <TakeIn jobId={jobId} specId={used.id} />
      </div>
    </Hydrated>
  );
}
