import { slug } from '@/core/delivery/file-name';
import { fileOfTemplate } from '@/core/delivery/template';
import { removeTemplate, templateOf } from '@/server/deliveries/templates';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.readTemplate, ({ server, params }) => {
  const file = fileOfTemplate(templateOf(server, params.templateId as string));
  return new Response(`${JSON.stringify(file, null, 2)}\n`, {
    headers: {
      'Content-Type': 'application/json; charset=utf-8',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(slug(file.name))}.template.json`,
      'Cache-Control': 'no-store',
    },
  });
});

export const DELETE = serve(OPERATIONS.removeTemplate, ({ server, params }) => {
  removeTemplate(server, params.templateId as string);
});
