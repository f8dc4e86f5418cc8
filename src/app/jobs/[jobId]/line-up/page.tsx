import { loadLineUpAddress } from '@/features/common/address';
import { AddressNotice } from '@/features/common/address-notice';
import { Hydrated, known } from '@/features/common/data/hydrated';
import { namesQuery } from '@/features/common/data/queries';
import { LineUp } from '@/features/line-up/line-up';
import { lineUpsQuery } from '@/features/line-up/queries';
import { viewLineUps } from '@/server/line-ups/proposals';
import { getServer } from '@/server/server';
import { loadStage, type StageProps } from '../load';

export default async function LineUpPage(props: StageProps) {
  const { jobId, asOf, names, specId, unknown, shown } = await loadStage(props);
  const view = viewLineUps(getServer(), jobId);
  const { 'line-up': asked } = await loadLineUpAddress(props.searchParams);
  const { lineUps } = view;
  const current = lineUps.find(({ id }) => id === asked) ?? lineUps[0];
  return (
    <Hydrated asOf={asOf} data={[known(namesQuery(jobId), names), known(lineUpsQuery(jobId), view)]}>
      <AddressNotice unknown={unknown} shown={shown} />
      <LineUp jobId={jobId} lineUpId={current?.id ?? null} specId={specId} />
    </Hydrated>
  );
}
