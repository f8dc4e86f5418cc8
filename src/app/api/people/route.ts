import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { whoAsks } from '@/server/http/who';
import { addPerson, viewPeople } from '@/server/people/people';

export const dynamic = 'force-dynamic';

export const GET = serve(OPERATIONS.viewPeople, ({ server }) => viewPeople(server));

export const POST = serve(OPERATIONS.addPerson, async ({ server, request, body }) => ({
  personId: await addPerson(server, whoAsks(request.headers), body),
}));
