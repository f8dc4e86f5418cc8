import { downloadDelivery } from '@/server/deliveries/download';
import { respond } from '@/server/http/respond';
import { getServer } from '@/server/server';

/** The written file, streamed from disk. */
export function GET(_request: Request, context: { params: Promise<{ deliveryId: string }> }): Promise<Response> {
  return respond(async () => {
    const { fileName, sizeBytes, body } = await downloadDelivery(getServer(), (await context.params).deliveryId);
    return new Response(body, {
      headers: {
        'Content-Type': 'audio/wav',
        'Content-Length': String(sizeBytes),
        'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`,
        'Cache-Control': 'no-store',
      },
    });
  });
}
