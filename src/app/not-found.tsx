import Link from 'next/link';

export default function NotFound() {
  return (
    <main className="grid h-full place-items-center">
      <div className="text-center">
        <h1 className="text-xl font-bold">Page not found</h1>
        <p className="mt-2 text-mute">Everything saved is safe. The job may have another address.</p>
        <Link href="/" className="mt-4 inline-block font-semibold text-slide-ink underline">
          Go to the list of jobs
        </Link>
      </div>
    </main>
  );
}
