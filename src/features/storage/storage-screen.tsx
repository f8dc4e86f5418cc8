'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { formatBytes } from '@/core/units/format';
import { ErrorNotice } from '@/features/common/error-notice';
import { TopBar } from '@/features/common/top-bar';
import { useAct } from '@/features/common/use-act';
import type { StoreView } from '@/server/housekeeping/house-keeper';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { freeStore } from './actions';
import { storageMessages as messages } from './messages';

/** What takes space in the data folder, the largest first, and what of it can go. */
export function StorageScreen({ stores, freeBytes }: { stores: readonly StoreView[]; freeBytes: number }) {
  const router = useRouter();
  const { act, isBusy, error, clearError } = useAct(() => router.refresh());
  const [freedBytes, setFreedBytes] = useState<number>();
  const bySize = stores.filter(({ files }) => files > 0).sort((a, b) => b.bytes - a.bytes);
  const total = bySize.reduce((sum, { bytes }) => sum + bytes, 0);
  return (
    <div className="flex h-full flex-col">
      <TopBar current="storage" />
      <main className="mx-auto flex w-full max-w-4xl grow flex-col gap-4 overflow-y-auto p-6">
        <header className="flex items-baseline justify-between gap-4">
          <h1 className="text-xl font-bold">{messages.storage}</h1>
          <span className="text-sm text-mute">{messages.free(formatBytes(freeBytes))}</span>
        </header>
        {error ? <ErrorNotice error={error} onClose={clearError} /> : null}
        <Card flush className="shrink-0">
          <table className="w-full text-sm">
            <thead className="text-left text-xs text-mute">
              <tr className="border-b border-hair">
                <th scope="col" className="px-4 py-2 font-semibold">
                  {messages.part}
                </th>
                {[messages.files, messages.size, messages.canBeFreed].map((name) => (
                  <th key={name} scope="col" className="px-3 py-2 text-right font-semibold">
                    {name}
                  </th>
                ))}
                <td />
              </tr>
            </thead>
            <tbody>
              {bySize.map((store) => (
                <StoreRow
                  key={store.kind}
                  store={store}
                  isBusy={isBusy}
                  onFree={() => void act(() => freeStore(store.kind), setFreedBytes)}
                />
              ))}
            </tbody>
            <tfoot>
              <tr className="border-t border-hair font-semibold">
                <th scope="row" className="px-4 py-2 text-left">
                  {messages.total}
                </th>
                <td />
                <td className="px-3 py-2 text-right font-numbers whitespace-nowrap">{formatBytes(total)}</td>
                <td />
                <td />
              </tr>
            </tfoot>
          </table>
        </Card>
        <p className="text-xs text-mute">{messages.whatGoes}</p>
        <output className="text-sm">{freedBytes === undefined ? '' : messages.freed(formatBytes(freedBytes))}</output>
      </main>
    </div>
  );
}

function StoreRow({ store, isBusy, onFree }: { store: StoreView; isBusy: boolean; onFree: () => void }) {
  const { kind, files, bytes, freeableBytes } = store;
  const { name, words } = messages.kinds[kind];
  return (
    <tr className="border-b border-hair last:border-0">
      <th scope="row" className="px-4 py-2 text-left font-normal">
        <span className="font-semibold">{name}</span>
        <span className="block text-xs text-mute">{words}</span>
      </th>
      <td className="px-3 py-2 text-right font-numbers">{files}</td>
      <td className="px-3 py-2 text-right font-numbers whitespace-nowrap">{formatBytes(bytes)}</td>
      <td className="px-3 py-2 text-right font-numbers whitespace-nowrap">
        {freeableBytes > 0 ? formatBytes(freeableBytes) : messages.nothing}
      </td>
      <td className="py-1 pr-3 text-right">
        {freeableBytes > 0 ? (
          <Button kind="quiet" disabled={isBusy} onClick={onFree} aria-label={messages.freePart(name)}>
            {messages.freeNow}
          </Button>
        ) : null}
      </td>
    </tr>
  );
}
