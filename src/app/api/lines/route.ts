import { addLine } from '@/server/deliveries/lines';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const POST = serve(OPERATIONS.addLine, ({ server, body }) => ({ lineId: addLine(server, body).id }));
