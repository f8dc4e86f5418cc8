import { slug } from '@/core/delivery/file-name';
import { formatDay } from '@/core/units/format';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { reportOf, reportPdf, reportSvg } from '@/server/lines/day-report';

const TYPES = { pdf: 'application/pdf', svg: 'image/svg+xml', json: 'application/json; charset=utf-8' } as const;

export const GET = serve(
  OPERATIONS.lineReport,
  async ({ server, params, query: { from, to, as, utcOffsetMinutes } }) => {
    const report = reportOf(server, params.lineId as string, from, to);
    const body =
      as === 'pdf'
        ? new Uint8Array(await reportPdf(report, utcOffsetMinutes))
        : as === 'svg'
          ? reportSvg(report, utcOffsetMinutes)
          : JSON.stringify(report);
    const fileName = `${slug(report.lineName)}_${formatDay(to * 1000)}.${as}`;
    return new Response(body, {
      headers: {
        'Content-Type': TYPES[as],
        'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`,
        'Cache-Control': 'no-store',
      },
    });
  },
);
