import type { SearchParams } from 'nuqs/server';
import { loadSpecsAddress } from '@/features/common/address';
import { SpecsScreen } from '@/features/specs/specs-screen';
import { getServer } from '@/server/server';
import { listSpecs } from '@/server/specs/specs';

export const dynamic = 'force-dynamic';

export default async function SpecsPage({ searchParams }: { searchParams: Promise<SearchParams> }) {
  const { spec, with: other } = await loadSpecsAddress(searchParams);
  const specs = listSpecs(getServer());
  const [first] = specs;
  const current = specs.find((own) => own.spec.id === spec) ?? first;
  if (!current) return null;
  return <SpecsScreen key={current.spec.id} specs={specs} current={current} other={other ?? ''} />;
}
