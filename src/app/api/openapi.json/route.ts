import { openApi } from '@/server/http/openapi';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.openApi, () => openApi());
