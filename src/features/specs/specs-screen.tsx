'use client';

import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import { describeSpec } from '@/core/spec/assess';
import { documentOf, type Spec } from '@/core/spec/spec';
import { specsAddress } from '@/features/common/address';
import { useSharedChanges } from '@/features/common/data/use-shared-changes';
import { ErrorNotice } from '@/features/common/error-notice';
import { SideList } from '@/features/common/side-list';
import { TopBar } from '@/features/common/top-bar';
import { useAct } from '@/features/common/use-act';
import type { SpecView } from '@/server/specs/specs';
import { Button, ButtonLink } from '@/ui/button';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { classNames } from '@/ui/class-names';
import { bringInSpec, duplicateSpec, putSpecAway } from './actions';
import { specsScreenMessages as messages } from './messages';
import { SpecForm } from './spec-form';

const GROUPS = [
  ['published', messages.fromPublishedDocuments],
  ['common-practice', messages.commonPractice],
  ['own', messages.yourOwn],
] as const;

const NONE = 'none';

/** Every spec, what it asks for and what that rests on; copies of them to be changed, compared, kept and brought in. */
export function SpecsScreen({
  specs,
  current,
  other,
}: {
  specs: readonly SpecView[];
  current: SpecView;
  /** What it is compared with: `id` or `id@version`. */
  other: string;
}) {
  const router = useRouter();
  useSharedChanges();
  const { act, isBusy, error, clearError } = useAct(() => router.refresh());
  const [isEditing, setIsEditing] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const { spec, isBuiltIn, versions } = current;
  const compared = findCompared(specs, other);
  const go = (id: string, beside: string | null = null) => router.push(specsAddress(id, beside));
  const options = [
    { value: NONE, label: 'nothing' },
    ...versions
      .filter((own) => own.version !== spec.version)
      .map((own) => ({ value: `${own.id}@${own.version}`, label: `version ${own.version}` })),
    ...specs.filter((own) => own.spec.id !== spec.id).map((own) => ({ value: own.spec.id, label: own.spec.name })),
  ];
  return (
    <div className="flex h-full flex-col">
      <TopBar current="specs" />
      <main className="mx-auto flex min-h-0 w-full max-w-[1400px] grow flex-col gap-3 overflow-y-auto p-4">
        <header className="flex items-center justify-between gap-4">
          <h1 className="text-xl font-bold">{messages.specs}</h1>
          <span className="flex gap-2">
            <input
              ref={file}
              type="file"
              accept="application/json,.json"
              aria-label={messages.aSpecToImport}
              className="sr-only"
              onChange={async (event) => {
                const [chosen] = event.target.files ?? [];
                event.target.value = '';
                if (!chosen) return;
                const text = await chosen.text();
                act(
                  () => bringInSpec(text),
                  (id) => go(id),
                );
              }}
            />
            <Button disabled={isBusy} onClick={() => file.current?.click()}>
              {messages.importASpec}
            </Button>
          </span>
        </header>
        <ErrorNotice error={error} onClose={clearError} />
        <div className="grid items-start gap-3 lg:grid-cols-[17rem_1fr]">
          <SideList
            label={messages.specs}
            currentId={spec.id}
            groups={GROUPS.map(([kind, title]) => ({
              title,
              items: specs
                .filter((own) => own.spec.basis.kind === kind)
                .map(({ spec: { id, name } }) => ({ id, href: specsAddress(id), label: name })),
            }))}
          />
          <Card className="flex flex-col gap-3">
            <header className="flex flex-wrap items-start justify-between gap-3">
              <div className="min-w-0">
                <h2 className="text-lg font-bold">{spec.name}</h2>
                <p className="text-xs text-mute">{messages.version(spec.version, documentOf(spec))}</p>
              </div>
              <span className="flex flex-wrap gap-2">
                {isBuiltIn || isEditing ? null : (
                  <>
                    <Button onClick={() => setIsEditing(true)}>{messages.edit}</Button>
                    <Button
                      disabled={isBusy}
                      onClick={() =>
                        act(
                          () => putSpecAway(spec.id),
                          () => router.push('/specs'),
                        )
                      }
                    >
                      {messages.archive}
                    </Button>
                  </>
                )}
                <Button
                  disabled={isBusy}
                  onClick={() =>
                    act(
                      () => duplicateSpec(spec.id, `${spec.name}, copy`),
                      (id) => go(id),
                    )
                  }
                >
                  {messages.makeACopy}
                </Button>
                <ButtonLink href={`/api/specs/${spec.id}`} download>
                  {messages.exportJson}
                </ButtonLink>
              </span>
            </header>
            {isEditing ? (
              <SpecForm
                spec={spec}
                onDone={() => {
                  setIsEditing(false);
                  router.refresh();
                }}
                onCancel={() => setIsEditing(false)}
              />
            ) : (
              <>
                <p className="flex items-center gap-2 text-sm text-mute">
                  {messages.compareWith}
                  <Choice
                    label={messages.compareWith}
                    value={compared ? other : NONE}
                    options={options}
                    onChange={(id) => go(spec.id, id === NONE ? null : id)}
                  />
                </p>
                <SpecTable spec={spec} compared={compared} />
                {isBuiltIn ? <p className="text-xs text-mute">{messages.readOnly}</p> : null}
              </>
            )}
          </Card>
        </div>
      </main>
    </div>
  );
}

function findCompared(specs: readonly SpecView[], other: string): Spec | undefined {
  const [id, version] = other.split('@');
  const view = specs.find((own) => own.spec.id === id);
  return version === undefined ? view?.spec : view?.versions.find((own) => own.version === Number(version));
}

function SpecTable({ spec, compared }: { spec: Spec; compared: Spec | undefined }) {
  const beside = compared && describeSpec(compared);
  const rows = describeSpec(spec)
    .map((row, i) => ({ ...row, other: beside?.[i]?.value ?? '' }))
    .filter(({ value, other }) => value !== '' || other !== '');
  return (
    <table aria-label={messages.whatAsksFor(spec.name)} className="w-full text-left text-sm">
      {compared ? (
        <thead className="text-xs text-mute">
          <tr className="[&>th]:py-1 [&>th]:font-normal">
            <td />
            <th scope="col">{spec.name}</th>
            <th scope="col">
              {compared.name}
              {compared.id === spec.id ? messages.compareVersion(compared.version) : ''}
            </th>
          </tr>
        </thead>
      ) : null}
      <tbody>
        {rows.map(({ name, value, other }) => {
          const isOther = compared !== undefined && value !== other;
          return (
            <tr key={name} className="border-t border-hair align-top">
              <th scope="row" className="w-48 py-1.5 pr-4 font-normal text-mute">
                {name}
              </th>
              <td className={classNames('py-1.5 pr-4', isOther && 'font-bold')}>{value || messages.notRequired}</td>
              {compared ? (
                <td className={classNames('py-1.5', isOther ? 'font-bold' : 'text-mute')}>
                  {isOther ? other || messages.notRequired : messages.same}
                </td>
              ) : null}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
