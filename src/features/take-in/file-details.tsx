'use client';

import { type ReactNode, useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { formatBytes, formatLevel, formatTime } from '@/core/units/format';
import { describeTimeCodeRate, type StartTimeCode, timeCodeAt } from '@/core/units/time-code';
import { ErrorNotice } from '@/features/common/error-notice';
import { pictureMessages } from '@/features/common/messages';
import type { AudioFormat } from '@/formats/audio-format';
import type { Marker, StatedLoudness } from '@/formats/metadata';
import type { TakeInRow } from '@/server/jobs/take-in-list';
import type { ProgrammeMetadata } from '@/server/take-in/time-code';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { fileDetails } from './actions';
import { Definition } from './definition';
import { definitionMessages, fileDetailsMessages as messages } from './messages';
import { TimeCodeForm } from './time-code-form';
import { TracksForm } from './tracks-form';

/** What a file carries beside its samples, read from it when it is asked for. */
export function FileDetails({ programme }: { programme: TakeInRow }) {
  const [isOpen, setIsOpen] = useState(false);
  const [metadata, setMetadata] = useState<ProgrammeMetadata>();
  const [error, setError] = useState<ErrorRecord>();
  const { fileName, format, sha256, sizeBytes } = programme;
  const open = async (next: boolean) => {
    setIsOpen(next);
    if (!next) return;
    const result = await fileDetails(programme.id);
    if (result.ok) setMetadata(result.value);
    setError(result.ok ? undefined : result.error);
  };
  return (
    <Dialog
      trigger={<Button kind="inline">{messages.file}</Button>}
      title={fileName}
      description={messages.sizeAndHash(formatBytes(sizeBytes), sha256.slice(0, 12))}
      isOpen={isOpen}
      onOpenChange={(next) => void open(next)}
    >
      <ErrorNotice error={error} />
      {metadata ? (
        <Carried
          metadata={metadata}
          format={format}
          programmeId={programme.id}
          onTaken={() => setIsOpen(false)}
          onChanged={() => void open(true)}
        />
      ) : error ? null : (
        <p className="text-sm text-mute">{messages.reading}</p>
      )}
    </Dialog>
  );
}

function Carried({
  metadata,
  format: { sampleRateHz, adm },
  programmeId,
  onTaken,
  onChanged,
}: {
  metadata: ProgrammeMetadata;
  format: AudioFormat;
  programmeId: string;
  onTaken: () => void;
  onChanged: () => void;
}) {
  const { tags, markers, timeReferenceFrames, timeCode, setTimeCode, picture, tracks } = metadata;
  const { statedLoudness, codingHistory, chunks } = metadata;
  const isEmpty =
    tags.length + markers.length + codingHistory.length === 0 &&
    timeReferenceFrames === null &&
    timeCode === null &&
    picture === null &&
    tracks.length === 0;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard.
    <div tabIndex={0} className="-mr-2 flex min-h-0 flex-col gap-4 overflow-y-auto pr-2 text-[13px]">
      {isEmpty ? <p className="text-mute">{messages.nothing}</p> : null}
      {picture ? (
        <Part title={messages.picture}>
          <p>{pictureMessages.is(picture)}</p>
        </Part>
      ) : null}
      {tracks.length > 0 ? (
        <Part title={messages.tracks}>
          <ol className="list-decimal pl-5">
            {tracks.map((track) => (
              <li key={track.number}>{messages.track(track)}</li>
            ))}
          </ol>
          <TracksForm programmeId={programmeId} tracks={tracks} onTaken={onTaken} />
        </Part>
      ) : null}
      {adm ? (
        <Part title={definitionMessages.heading}>
          <Definition programmeId={programmeId} onTaken={onTaken} />
        </Part>
      ) : null}
      <Part title={messages.timeCode}>
        {timeCode ? (
          <p>
            {messages.startsAt} <span className="font-mono">{timeCodeAt(timeCode, 0, sampleRateHz)}</span>,{' '}
            {describeTimeCodeRate(timeCode.rate)}
            {setTimeCode ? messages.setByHand : ''}
          </p>
        ) : (
          <p className="text-mute">{messages.noTimeCode}</p>
        )}
        <TimeCodeForm
          key={`${setTimeCode?.label} ${setTimeCode?.rate}`}
          programmeId={programmeId}
          set={setTimeCode}
          framesPerSecond={picture?.framesPerSecond ?? null}
          onSet={onChanged}
        />
      </Part>
      {timeReferenceFrames !== null ? (
        <Part title={messages.timeReference}>
          <p>
            {messages.startsAt}{' '}
            <span className="font-mono">{formatTime(timeReferenceFrames / sampleRateHz, { milliseconds: true })}</span>{' '}
            {messages.afterMidnight(timeReferenceFrames)}
          </p>
        </Part>
      ) : null}
      {statedLoudness ? (
        <Part title={messages.statedLoudness}>
          <p className="font-mono">{statedLine(statedLoudness)}</p>
        </Part>
      ) : null}
      {tags.length > 0 ? (
        <Part title={messages.tags}>
          <dl className="grid grid-cols-[minmax(7rem,auto)_1fr] gap-x-4 gap-y-1">
            {tags.map(({ name, value }) => (
              <div key={`${name} ${value}`} className="contents">
                <dt className="text-mute">{name}</dt>
                <dd className="break-words whitespace-pre-wrap">{value}</dd>
              </div>
            ))}
          </dl>
        </Part>
      ) : null}
      {markers.length > 0 ? (
        <Part title={messages.markers(markers.length)}>
          <MarkerTable markers={markers} sampleRateHz={sampleRateHz} timeCode={timeCode} />
        </Part>
      ) : null}
      {codingHistory.length > 0 ? (
        <Part title={messages.codingHistory}>
          <ol className="font-mono text-xs">
            {codingHistory.map((line, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a history never changes its order.
              <li key={i}>{line}</li>
            ))}
          </ol>
        </Part>
      ) : null}
      {chunks.length > 0 ? (
        <Part title={messages.chunks}>
          <ul className="flex flex-wrap gap-x-4 gap-y-1 font-mono text-xs">
            {chunks.map(({ id, bytes }, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a file may hold the same part twice.
              <li key={i}>
                <span className="whitespace-pre">{id}</span> <span className="text-mute">{formatBytes(bytes)}</span>
              </li>
            ))}
          </ul>
        </Part>
      ) : null}
    </div>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section>
      <h3 className="mb-1 text-xs font-bold">{title}</h3>
      {children}
    </section>
  );
}

function MarkerTable({
  markers,
  sampleRateHz,
  timeCode,
}: {
  markers: readonly Marker[];
  sampleRateHz: number;
  timeCode: StartTimeCode | null;
}) {
  const time = (frames: number) => formatTime(frames / sampleRateHz, { milliseconds: true });
  return (
    <table className="w-full text-left">
      <thead className="text-xs text-mute">
        <tr>
          <th className="w-28 font-normal">{messages.at}</th>
          {timeCode ? <th className="w-28 font-normal">{messages.timeCode}</th> : null}
          <th className="w-28 font-normal">{messages.length}</th>
          <th className="font-normal">{messages.name}</th>
        </tr>
      </thead>
      <tbody>
        {markers.map(({ frame, lengthFrames, label }, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: two markers may stand at the same place.
          <tr key={i}>
            <td className="font-mono">{time(frame)}</td>
            {timeCode ? <td className="font-mono">{timeCodeAt(timeCode, frame, sampleRateHz)}</td> : null}
            <td className="font-mono text-mute">{lengthFrames > 0 ? time(lengthFrames) : ''}</td>
            <td>{label}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function statedLine(stated: StatedLoudness): string {
  const { integratedLufs, loudnessRangeLu, truePeakDbtp, maxMomentaryLufs, maxShortTermLufs } = stated;
  const part = (words: string, value: number | null, unit: 'LUFS' | 'LU' | 'dBTP') =>
    value === null ? [] : [`${words}${formatLevel(value, unit)}`];
  return [
    ...part('', integratedLufs, 'LUFS'),
    ...part('range ', loudnessRangeLu, 'LU'),
    ...part('peak ', truePeakDbtp, 'dBTP'),
    ...part('momentary max ', maxMomentaryLufs, 'LUFS'),
    ...part('short-term max ', maxShortTermLufs, 'LUFS'),
  ].join(' · ');
}
