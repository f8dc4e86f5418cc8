import type { JobSummary } from '@/server/jobs/job-list';
import { jobState, nextStep, shownJobs } from './job-order';

const job = (own: Partial<JobSummary> = {}): JobSummary => ({
  id: 'a',
  name: 'A job',
  createdAtMs: 1,
  touchedAtMs: 1,
  isArchived: false,
  programmes: 3,
  measured: 3,
  written: 0,
  missing: 0,
  undecided: 0,
  toWrite: 0,
  accepted: 0,
  refused: 0,
  underway: 0,
  ...own,
});

test('what comes next follows the order of the work', () => {
  expect(nextStep(job({ programmes: 0, measured: 0 }), undefined)).toEqual({ text: 'Take files in', stage: 'take-in' });
  expect(nextStep(job({ measured: 1 }), 1)?.text).toBe('Wait for 2 to be measured');
  expect(nextStep(job({ written: 2, refused: 1 }), 0)?.text).toBe('See why one was refused');
  expect(nextStep(job({ written: 2, missing: 1, undecided: 1, toWrite: 4 }), 0)?.text).toBe(
    'Decide on 1 outside its spec',
  );
  expect(nextStep(job({ toWrite: 2 }), 3)).toEqual({ text: 'Write 2 rows', stage: 'hand-over' });
  expect(nextStep(job(), 2)).toEqual({ text: 'Set 2 outside the spec', stage: 'measure-and-set' });
  expect(nextStep(job(), 0)?.text).toBe('Add deliveries');
  // Until it is known how programmes stand, nothing is said of it; and what is all written is done.
  expect(nextStep(job(), undefined)).toBeNull();
  expect(nextStep(job({ written: 3, missing: 1, accepted: 3 }), 0)).toBeNull();
});

test('what is written and sent is said in words', () => {
  expect(jobState(job({ programmes: 0 }))).toBe('nothing taken in yet');
  expect(jobState(job({ programmes: 1 }))).toBe('1 programme · nothing written yet');
  expect(jobState(job({ written: 3, missing: 1, accepted: 2, underway: 1, refused: 1 }))).toBe(
    '3 programmes · 3 written · ▲ 1 outside the spec · ◆ 2 accepted by their receivers · 1 being sent · ▲ 1 refused',
  );
});

test('the job that was touched last comes first, or the newest', () => {
  const jobs = [job({ id: 'old', touchedAtMs: 9 }), job({ id: 'new', createdAtMs: 5, touchedAtMs: 5 })];
  const ids = (order: 'touched' | 'newest') =>
    shownJobs(jobs, { search: '', order, withArchived: false }).map(({ id }) => id);
  expect(ids('touched')).toEqual(['old', 'new']);
  expect(ids('newest')).toEqual(['new', 'old']);
});
