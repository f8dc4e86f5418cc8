import Link from 'next/link';
import { startJob } from '@/features/jobs/actions';
import { Brand } from '@/features/jobs/brand';
import { ThemeSwitch } from '@/features/jobs/theme-switch';
import { listJobs } from '@/server/jobs/jobs';
import { getServer } from '@/server/server';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';

export const dynamic = 'force-dynamic';

export default function JobsPage() {
  const jobs = listJobs(getServer());
  return (
    <div className="flex h-full flex-col">
      <header className="flex items-center justify-between bg-bar px-4 py-2 text-bar-text">
        <Brand />
        <ThemeSwitch />
      </header>
      <main className="mx-auto flex w-full max-w-2xl grow flex-col gap-4 overflow-y-auto p-6">
        <h1 className="text-xl font-bold">Jobs</h1>
        {jobs.length === 0 ? (
          <p className="text-mute">
            A job is one piece of work for one client. Name the first one; then drop its files in, measure them, and
            hand over what was asked for.
          </p>
        ) : (
          <Card flush>
            <ul>
              {jobs.map(({ id, name, programmes }) => (
                <li key={id} className="border-b border-hair last:border-0">
                  <Link
                    href={`/jobs/${id}/${programmes > 0 ? 'measure-and-set' : 'take-in'}`}
                    className="flex items-baseline justify-between gap-4 px-4 py-3 hover:bg-stock-1"
                  >
                    <span className="font-bold">{name}</span>
                    <span className="text-xs text-mute">
                      {programmes} {programmes === 1 ? 'programme' : 'programmes'}
                    </span>
                  </Link>
                </li>
              ))}
            </ul>
          </Card>
        )}
        <form action={startJob} className="flex items-end gap-3">
          <label className="flex grow flex-col gap-1 text-xs text-mute">
            New job
            <input
              name="name"
              required
              maxLength={120}
              placeholder="Client · what it is"
              className="rounded-control border border-hair bg-sheet px-3 py-1.5 text-sm text-ink"
            />
          </label>
          <Button kind="primary" type="submit">
            Start the job
          </Button>
        </form>
      </main>
    </div>
  );
}
