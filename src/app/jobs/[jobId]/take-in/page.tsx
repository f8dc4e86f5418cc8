import { isFfmpegThere } from '@/codecs/ffmpeg';
import { AddressNotice } from '@/features/common/address-notice';
import { AddFilesButton } from '@/features/take-in/drop-zone';
import { MediaBrowser } from '@/features/take-in/media-browser';
import { ProposedGroups } from '@/features/take-in/proposed-groups';
import { RemovedList } from '@/features/take-in/removed-list';
import { TakeInTable } from '@/features/take-in/take-in-table';
import { getServer } from '@/server/server';
import { specOrUsual } from '@/server/specs/specs';
import { mediaRoots } from '@/server/take-in/media';
import { settleReferences } from '@/server/take-in/reference';
import { Card } from '@/ui/card';
import { loadJob, type StageProps, unknownSpec } from '../load';

export default async function TakeInPage({ params, searchParams }: StageProps) {
  const { jobId } = await params;
  const lyingElsewhere = loadJob(jobId).programmes.filter(({ reference }) => reference?.state === 'touched');
  await settleReferences(
    getServer(),
    lyingElsewhere.map(({ sha256 }) => sha256),
  );
  const job = loadJob(jobId);
  const roots = mediaRoots().map(({ name }) => name);
  const { spec } = await searchParams;
  const used = specOrUsual(getServer(), typeof spec === 'string' ? spec : undefined);
  const hasFfmpeg = await isFfmpegThere();
  return (
    <div className="mx-auto flex max-w-[1600px] flex-col gap-3 p-4">
      <AddressNotice
        unknown={{ programme: false, specId: unknownSpec(spec, used.id) }}
        shown={{ title: '', specName: used.name }}
      />
      <header className="flex items-center justify-between gap-4">
        <h1 className="text-xl font-bold">Take in</h1>
        {roots.length > 0 ? <MediaBrowser jobId={job.id} roots={roots} /> : null}
      </header>
      {hasFfmpeg ? null : (
        <p className="text-sm text-mute">
          ○ FFmpeg is not installed: WAV and AIFF can be taken in; other formats cannot. Install it (Debian: apt-get
          install ffmpeg), or name it in OPSIMETER_FFMPEG, and start Opsimeter again.
        </p>
      )}
      <ProposedGroups programmes={job.programmes} />
      {job.programmes.length > 0 ? (
        <TakeInTable jobId={job.id} programmes={job.programmes} spec={used} />
      ) : (
        <Card className="grid min-h-80 place-items-center border-dashed text-center">
          <div className="flex flex-col items-center gap-3">
            <p className="text-lg font-bold">Drop mixes anywhere on this page</p>
            <p className="max-w-md text-sm text-mute">
              WAV, AIFF, FLAC, MP3, M4A, Opus and other common formats, and the sound of videos; up to 24 channels. They
              are measured over their whole length as they come, and never changed.
            </p>
            <AddFilesButton kind="primary">Choose files</AddFilesButton>
          </div>
        </Card>
      )}
      <RemovedList removed={job.removed} />
    </div>
  );
}
