'use client';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { DeliveryFormatInput } from '@/core/delivery/format';
import { type BookSettings, bookSettings, LEAST_SAMPLE_SECONDS, MOST_SAMPLE_SECONDS } from '@/core/lineup/book';
import { formatTime } from '@/core/units/format';
import { parseNumber, parseTime } from '@/core/units/parse';
import { StateMark } from '@/features/common/state-mark';
import type { Act } from '@/features/common/use-act';
import type { LineUpView } from '@/server/line-ups/line-ups';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { TypedField } from '@/ui/typed-field';
import { writeRecord } from './actions';
import { FormatChoices } from './format-choices';
import { writeBookMessages as messages } from './messages';
import { bookQuery } from './queries';

const NO_SAMPLE = 'none';
const USUAL_SAMPLE_SECONDS = 180;
const PER_SECOND = 1000;

/** How a book is written into a folder of its own: names, credits, the sample, and the one file of all chapters. */
export function WriteBook({
  jobId,
  lineUp,
  tracks,
  specId,
  isBusy,
  act,
  onChange,
}: {
  jobId: string;
  lineUp: LineUpView;
  tracks: readonly { programmeId: string; title: string; durationSeconds: number }[];
  specId: string;
  isBusy: boolean;
  act: Act;
  onChange: (book: BookSettings) => void;
}) {
  const { book } = lineUp.record;
  const { sample } = book;
  const [format, setFormat] = useState<DeliveryFormatInput>({ kind: 'm4a' });
  const { data: preview } = useQuery(bookQuery(jobId, lineUp.id, specId));
  const chapters = preview?.chapters ?? [];
  const missing = chapters.filter(({ isDelivered }) => !isDelivered).map(({ title }) => title);
  const set = (wanted: Partial<BookSettings>) => onChange({ ...book, ...wanted });
  return (
    <Card className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h2 className="mr-1 text-sm font-bold">{messages.heading}</h2>
        <label className="flex items-center gap-2 text-sm">
          <input
            type="checkbox"
            checked={book.hasOpeningCredits}
            onChange={(event) => set({ hasOpeningCredits: event.target.checked })}
          />
          {messages.openingCredits}
        </label>
        <label className="flex items-center gap-2 text-sm">
          <input
            type="checkbox"
            checked={book.hasClosingCredits}
            onChange={(event) => set({ hasClosingCredits: event.target.checked })}
          />
          {messages.closingCredits}
        </label>
        <span title={messages.chapterNameHint}>
          <TypedField
            label={messages.chapterName}
            value={book.chapterName}
            format={(pattern) => pattern}
            parse={parseChapterName}
            onCommit={(chapterName) => chapterName !== book.chapterName && set({ chapterName })}
            isText
            className="w-56"
          />
        </span>
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2" title={messages.sampleHint}>
        <Choice
          label={messages.sample}
          value={sample?.programmeId ?? NO_SAMPLE}
          options={[
            { value: NO_SAMPLE, label: messages.noSample },
            ...tracks
              .filter(({ durationSeconds }) => durationSeconds >= LEAST_SAMPLE_SECONDS)
              .map(({ programmeId, title }) => ({ value: programmeId, label: title })),
          ]}
          onChange={(programmeId) => set({ sample: programmeId === NO_SAMPLE ? null : sampleOf(programmeId, tracks) })}
        />
        {sample ? (
          <>
            <TypedField
              label={messages.sampleFrom}
              value={sample.startSeconds}
              format={(seconds) => formatTime(seconds, { milliseconds: true })}
              parse={parseSeconds}
              onCommit={(startSeconds) =>
                startSeconds !== sample.startSeconds && set({ sample: { ...sample, startSeconds } })
              }
            />
            <TypedField
              label={messages.sampleLength}
              value={sample.seconds}
              format={(seconds) => String(seconds)}
              parse={parseSampleLength}
              onCommit={(seconds) => seconds !== sample.seconds && set({ sample: { ...sample, seconds } })}
              className="w-20"
            />
          </>
        ) : null}
        <span className="text-sm text-mute">{messages.oneFile}</span>
        <FormatChoices kinds={BOOK_KINDS} canBeMono={false} format={format} onChange={setFormat} />
        <span className="ml-auto">
          <Button
            kind="primary"
            title={messages.writeHint}
            disabled={isBusy || chapters.length === 0 || missing.length > 0}
            onClick={() => void act(() => writeRecord(lineUp.id, { form: 'book', format, specId }))}
          >
            {messages.write}
          </Button>
        </span>
      </div>
      <p role="status" className="text-xs text-mute">
        {missing.length > 0 ? (
          <>
            <StateMark state="not-measured" /> {messages.notDelivered(missing, chapters.length)}
          </>
        ) : (
          messages.files(namedAs(chapters.map(({ fileName }) => fileName)))
        )}
      </p>
    </Card>
  );
}

const BOOK_KINDS = ['m4a'] as const;

function namedAs(names: readonly string[]): string {
  const [first = '', last = first] = [names[0], names.at(-1)];
  return names.length < 2 ? first : messages.fromTo(first, last);
}

/** In the middle of a chapter, where it is long enough: beginnings are credits and greetings. */
function sampleOf(
  programmeId: string,
  tracks: readonly { programmeId: string; durationSeconds: number }[],
): NonNullable<BookSettings['sample']> {
  const length = tracks.find((own) => own.programmeId === programmeId)?.durationSeconds ?? LEAST_SAMPLE_SECONDS;
  const seconds = Math.max(LEAST_SAMPLE_SECONDS, Math.min(USUAL_SAMPLE_SECONDS, Math.floor(length)));
  return { programmeId, seconds, startSeconds: Math.max(0, Math.floor((length - seconds) / 2)) };
}

function parseChapterName(text: string): string | undefined {
  return bookSettings.shape.chapterName.safeParse(text).data;
}

function parseSeconds(text: string): number | undefined {
  const frames = parseTime(text, PER_SECOND);
  return frames === undefined ? undefined : frames / PER_SECOND;
}

function parseSampleLength(text: string): number | undefined {
  const seconds = parseNumber(text, 's');
  return seconds !== undefined && seconds >= LEAST_SAMPLE_SECONDS && seconds <= MOST_SAMPLE_SECONDS
    ? seconds
    : undefined;
}
