'use client';

import { NAMED_READINGS, READING_NAMES } from '@/core/loudness/reading-names';
import { Popup } from '@/ui/popup';
import { columnsMessages as messages } from './messages';
import type { TableLayout } from './use-columns';

/** Which readings have columns, and how much of each programme is shown. */
export function ColumnsMenu({
  layout,
  onChange,
}: {
  layout: TableLayout;
  onChange: (wanted: Partial<TableLayout>) => void;
}) {
  const { readings, isCompact } = layout;
  return (
    <Popup name={messages.columns}>
      <fieldset className="flex flex-col gap-1">
        <legend className="mb-1 text-xs text-mute">{messages.readings}</legend>
        {NAMED_READINGS.map((key) => (
          <label key={key} className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={readings.includes(key)}
              onChange={(event) =>
                onChange({
                  // In the order in which readings are listed everywhere.
                  readings: NAMED_READINGS.filter((own) =>
                    own === key ? event.target.checked : readings.includes(own),
                  ),
                })
              }
            />
            {READING_NAMES[key].name}
          </label>
        ))}
        <label className="mt-2 flex items-center gap-2 border-t border-hair pt-2" title={messages.compactHint}>
          <input
            type="checkbox"
            checked={isCompact}
            onChange={(event) => onChange({ isCompact: event.target.checked })}
          />
          {messages.compact}
        </label>
      </fieldset>
    </Popup>
  );
}
