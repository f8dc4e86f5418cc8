import Link from 'next/link';
import { notFoundMessages as messages } from './messages';

export default function NotFound() {
  return (
    <main className="grid h-full place-items-center">
      <div className="text-center">
        <h1 className="text-xl font-bold">{messages.pageNotFound}</h1>
        <p className="mt-2 text-mute">{messages.allSaved}</p>
        <Link href="/" className="mt-4 inline-block font-semibold text-slide-ink underline">
          {messages.toTheJobs}
        </Link>
      </div>
    </main>
  );
}
