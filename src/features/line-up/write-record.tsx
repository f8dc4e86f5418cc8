'use client';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { DeliveryFormatInput } from '@/core/delivery/format';
import { FILE_FORMATS, FILE_KINDS } from '@/core/file-formats/file-formats';
import type { RecordForm } from '@/core/lineup/assembly';
import { recordOf } from '@/features/common/data/fetch-json';
import { ErrorNotice } from '@/features/common/error-notice';
import { StateMark } from '@/features/common/state-mark';
import type { Act } from '@/features/common/use-act';
import type { LineUpView } from '@/server/line-ups/line-ups';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { writeRecord } from './actions';
import { FormatChoices } from './format-choices';
import { writeRecordMessages as messages } from './messages';
import { previewQuery } from './queries';

/** Kinds that hold a record: BW64, and what has no place for a title, are for other work. */
const KINDS = FILE_KINDS.filter((kind) => kind !== 'bw64' && FILE_FORMATS[kind].tags !== null);

/** What a CD takes. */
const CD_FORMAT = { kind: 'wav', sampleRateHz: 44_100, bitDepth: 16 } as const;

/** How a line-up is written: its format, as single files or as one, and what a CD would say of it. */
export function WriteRecord({
  jobId,
  lineUp,
  specId,
  isBusy,
  act,
}: {
  jobId: string;
  lineUp: LineUpView;
  specId: string;
  isBusy: boolean;
  act: Act;
}) {
  const [format, setFormat] = useState<DeliveryFormatInput>(
    lineUp.record.isForCd ? CD_FORMAT : { kind: lineUp.kind === 'book' ? 'm4a' : 'wav' },
  );
  const { data: preview, error } = useQuery(previewQuery(jobId, lineUp.id, 'continuous', format));
  const write = (form: RecordForm) => act(() => writeRecord(lineUp.id, { form, format, specId }));
  const { chapters } = FILE_FORMATS[format.kind];
  const missed = preview?.cd?.filter(({ inside }) => !inside) ?? [];
  return (
    <Card className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="mr-1 text-sm font-bold">{messages.heading}</h2>
        <FormatChoices kinds={KINDS} format={format} onChange={setFormat} />
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <p className="min-w-0 flex-1 text-xs text-mute">
          {preview ? messages.withIt(preview.formatText, messages.marks[chapters ?? 'cues']) : ''}
        </p>
        <span className="ml-auto flex gap-2">
          <Button title={messages.singleHint} disabled={isBusy || !!error} onClick={() => void write('single')}>
            {messages.single}
          </Button>
          <Button
            kind="primary"
            title={messages.continuousHint}
            disabled={isBusy || !!error}
            onClick={() => void write('continuous')}
          >
            {messages.continuous}
          </Button>
        </span>
      </div>
      <ErrorNotice error={error ? recordOf(error) : undefined} />
      {preview?.cd ? (
        <ul className="flex flex-wrap gap-x-4 gap-y-1 text-xs">
          {missed.length === 0 ? (
            <li className="flex gap-1">
              <StateMark state="inside" /> {messages.cd}: {messages.cdMet}
            </li>
          ) : null}
          {missed.map(({ key, state, phrase }) => (
            <li key={key} className="flex gap-1 text-breach">
              <StateMark state={state} /> {messages.cd}: {phrase}
            </li>
          ))}
        </ul>
      ) : null}
    </Card>
  );
}
