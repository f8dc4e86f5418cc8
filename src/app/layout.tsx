import type { Metadata } from 'next';
import localFont from 'next/font/local';
import { cookies, headers } from 'next/headers';
import { NuqsAdapter } from 'nuqs/adapters/next/app';
import type { ReactNode } from 'react';
import { EARLY_DROPS_SCRIPT } from '@/features/take-in/early-drops';
import { whoAsks } from '@/server/http/who';
import { HintProvider } from '@/ui/hint';
import './globals.css';
import { layoutMessages as messages } from './messages';

/** There before the first paint, so that nothing moves when it comes; letters beyond Latin-1 come when they are needed. */
const words = localFont({
  src: '../../node_modules/@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2',
  variable: '--font-words',
  display: 'optional',
  weight: '200 800',
});
const numbers = localFont({
  src: '../../node_modules/@fontsource-variable/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-wght-normal.woff2',
  variable: '--font-numbers',
  display: 'optional',
  weight: '200 800',
});

export const metadata: Metadata = {
  title: messages.opsimeter,
  description: messages.summary,
};

export default async function RootLayout({ children }: { children: ReactNode }) {
  const theme = (await cookies()).get('theme')?.value;
  // Written by the server that this app is behind, for this answer alone.
  const asked = await headers();
  const nonce = asked.get('x-nonce') ?? undefined;
  const who = whoAsks(asked);
  return (
    <html
      lang="en"
      className={`${words.variable} ${numbers.variable}`}
      data-theme={theme === 'light' || theme === 'dark' ? theme : undefined}
      data-person={who || undefined}
      data-role={who ? (asked.get('x-person-role') ?? undefined) : undefined}
      suppressHydrationWarning
    >
      <head>
        <script nonce={nonce}>{EARLY_DROPS_SCRIPT}</script>
      </head>
      <body className="h-dvh overflow-hidden bg-paper text-ink antialiased">
        <NuqsAdapter>
          <HintProvider delayDuration={300}>{children}</HintProvider>
        </NuqsAdapter>
      </body>
    </html>
  );
}
