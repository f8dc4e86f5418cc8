import type { Metadata } from 'next';
import { cookies } from 'next/headers';
import type { ReactNode } from 'react';
import { HintProvider } from '@/ui/hint';
import './globals.css';

export const metadata: Metadata = {
  title: 'Opsimeter',
  description: 'Measure a mix against a loudness spec, set its gain, and hand over a master that was measured again.',
};

export default async function RootLayout({ children }: { children: ReactNode }) {
  const theme = (await cookies()).get('theme')?.value;
  return (
    <html lang="en" data-theme={theme === 'light' || theme === 'dark' ? theme : undefined} suppressHydrationWarning>
      <body className="h-dvh overflow-hidden bg-paper text-ink antialiased">
        <HintProvider delayDuration={300}>{children}</HintProvider>
      </body>
    </html>
  );
}
