'use client';

import Link from 'next/link';
import { useState } from 'react';
import type { DeliveryFormatInput } from '@/core/delivery/format';
import { FILE_KINDS, isLossy } from '@/core/file-formats/file-formats';
import { stageAddress } from '@/features/common/address';
import { StateMark } from '@/features/common/state-mark';
import type { Act } from '@/features/common/use-act';
import type { StemsView } from '@/server/stems/null-test';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { writeRecord } from '../actions';
import { FormatChoices } from '../format-choices';
import { stemsMessages as messages } from '../messages';
import type { Mix } from './picture';

/** What is lost of each would not add up. */
const KINDS = FILE_KINDS.filter((kind) => !isLossy(kind));

/** How stems and their master are written: with the treatment of the mix, and in which format. */
export function WriteStems({
  jobId,
  lineUpId,
  specId,
  view: { treatment, isLimited, stems, test, waiting },
  mix,
  isBusy,
  act,
}: {
  jobId: string;
  lineUpId: string;
  specId: string;
  view: StemsView;
  mix: Mix;
  isBusy: boolean;
  act: Act;
}) {
  const [format, setFormat] = useState<DeliveryFormatInput>({ kind: 'wav' });
  const isApart = stems.some(({ differences }) => differences.some(({ isBlocking }) => isBlocking));
  return (
    <Card className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="mr-1 text-sm font-bold">{messages.write}</h2>
        <FormatChoices kinds={KINDS} canBeMono={false} format={format} onChange={setFormat} />
        <span className="ml-auto">
          <Button
            kind="primary"
            disabled={isBusy}
            whyNot={isApart ? messages.apartHint : waiting.length > 0 ? messages.waitingHint : null}
            onClick={() => void act(() => writeRecord(lineUpId, { form: 'stems', format, specId }))}
          >
            {messages.writeStems(stems.length)}
          </Button>
        </span>
      </div>
      <p className="text-xs text-mute">
        {messages.asTheMix(treatment.length > 0 ? treatment.join(', ') : messages.unchanged)}
        {isLimited ? ` ${messages.reductionOfTheMix}` : ''}{' '}
        <Link className="underline" href={stageAddress(jobId, 'measure-and-set', { programme: mix.programmeId })}>
          {messages.setTheMix}
        </Link>
      </p>
      {test && !test.reading.nulls ? (
        <p className="text-sm text-advice">
          <StateMark state="advice" /> {messages.doesNotAddUpYet}
        </p>
      ) : null}
    </Card>
  );
}
