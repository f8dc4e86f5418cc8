import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { whoAsks } from '@/server/http/who';
import { changePerson, removePerson } from '@/server/people/people';

export const PATCH = serve(OPERATIONS.changePerson, ({ server, request, params, body }) =>
  changePerson(server, whoAsks(request.headers), params.personId as string, body),
);

export const DELETE = serve(OPERATIONS.removePerson, ({ server, request, params }) =>
  removePerson(server, whoAsks(request.headers), params.personId as string),
);
