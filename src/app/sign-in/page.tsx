import { SignIn } from '@/features/people/sign-in';

export const dynamic = 'force-dynamic';

export default async function SignInPage({ searchParams }: { searchParams: Promise<{ next?: string | string[] }> }) {
  const { next } = await searchParams;
  // Only to a page of this app, whatever an address says.
  const isOwn = typeof next === 'string' && /^\/(?![/\\])/.test(next);
  return <SignIn next={isOwn ? next : '/'} />;
}
