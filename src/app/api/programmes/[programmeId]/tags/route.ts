import { setTags } from '@/server/deliveries/rows';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const PUT = serve(OPERATIONS.setTags, ({ server, params, body }) =>
  setTags(server, params.programmeId as string, body),
);
