import { bytesOf, serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { takeIn } from '@/server/take-in/take-in';

export const PUT = serve(OPERATIONS.takeIn, async ({ server, request, params, query }) => {
  const announced = request.headers.get('content-length');
  const taken = await takeIn(server, {
    jobId: params.jobId as string,
    fileName: query.name,
    body: bytesOf(request),
    ...(announced === null ? {} : { announcedBytes: Number(announced) }),
  });
  return Response.json(taken, { status: taken.alreadyThere ? 200 : 201 });
});
