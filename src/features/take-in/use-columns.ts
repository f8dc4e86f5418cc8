'use client';

import { useEffect, useState } from 'react';
import * as z from 'zod';
import { NAMED_READINGS, type NamedReading } from '@/core/loudness/reading-names';

const STORED = 'opsimeter.take-in';

const layoutSchema = z.object({
  readings: z.array(z.enum(NAMED_READINGS as [NamedReading, ...NamedReading[]])),
  isCompact: z.boolean(),
});
/** What the table shows of each programme. */
export type TableLayout = z.infer<typeof layoutSchema>;

const USUAL_LAYOUT: TableLayout = { readings: ['integratedLufs', 'truePeakDbtp'], isCompact: false };

/** What the table shows, as it was set on this machine. */
export function useColumns() {
  const [layout, setLayout] = useState(USUAL_LAYOUT);
  useEffect(() => {
    try {
      setLayout(layoutSchema.parse(JSON.parse(localStorage.getItem(STORED) ?? 'null')));
    } catch {
      // What can't be read is as good as nothing set.
    }
  }, []);
  const change = (wanted: Partial<TableLayout>) => {
    const next = { ...layout, ...wanted };
    setLayout(next);
    localStorage.setItem(STORED, JSON.stringify(next));
  };
  return { layout, change };
}
