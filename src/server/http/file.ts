/** A file as an answer, streamed from disk, to be kept under its own name. */
export function fileResponse(file: {
  fileName: string;
  mediaType: string;
  sizeBytes: number;
  body: BodyInit;
}): Response {
  return new Response(file.body, {
    headers: {
      'Content-Type': file.mediaType,
      'Content-Length': String(file.sizeBytes),
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(file.fileName)}`,
      'Cache-Control': 'no-store',
    },
  });
}
