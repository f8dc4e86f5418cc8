import { respond } from '@/server/http/respond';
import { getServer } from '@/server/server';

const handle = (request: Request): Promise<Response> => respond(() => getServer().uploads.handle(request));

export { handle as DELETE, handle as HEAD, handle as OPTIONS, handle as PATCH, handle as POST };
