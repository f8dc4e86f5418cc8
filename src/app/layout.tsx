import type { Metadata } from 'next';
import localFont from 'next/font/local';
import { cookies } from 'next/headers';
import { NuqsAdapter } from 'nuqs/adapters/next/app';
import type { ReactNode } from 'react';
import { EARLY_DROPS_SCRIPT } from '@/features/take-in/early-drops';
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
  return (
    <html
      lang="en"
      className={`${words.variable} ${numbers.variable}`}
      data-theme={theme === 'light' || theme === 'dark' ? theme : undefined}
      suppressHydrationWarning
    >
      <head>
        <script>{EARLY_DROPS_SCRIPT}</script>
      </head>
      <body className="h-dvh overflow-hidden bg-paper text-ink antialiased">
        <NuqsAdapter>
          <HintProvider delayDuration={300}>{children}</HintProvider>
        </NuqsAdapter>
      </body>
    </html>
  );
}
