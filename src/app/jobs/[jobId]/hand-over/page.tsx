import { HandOver } from '@/features/hand-over/hand-over';
import { loadStage, type StageProps } from '../load';

export default async function HandOverPage(props: StageProps) {
  const { job, current, specId } = await loadStage(props);
  return <HandOver key={current.id} jobId={job.id} programmes={job.programmes} current={current} specId={specId} />;
}
