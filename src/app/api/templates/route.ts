import { importTemplate, listTemplates } from '@/server/deliveries/templates';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.listTemplates, ({ server }) => ({ templates: listTemplates(server) }));

export const POST = serve(OPERATIONS.importTemplate, ({ server, body }) => ({
  templateId: importTemplate(server, body),
}));
