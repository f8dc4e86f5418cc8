import * as z from 'zod';
import { AppError } from '@/core/errors/app-error';
import { boundedText, parseBounded } from '../bounded-json';
import { log } from '../log';
import { getServer, type Server } from '../server';
import { requestId, respond } from './respond';

/** What an answer is, where it is not JSON. */
export const MEDIA = {
  bundle: 'application/octet-stream',
  audio: 'application/octet-stream',
  picture: 'image/*',
  film: 'video/webm',
  pdf: 'application/pdf',
  zip: 'application/zip',
  csv: 'text/csv',
  report: 'application/pdf',
  events: 'text/event-stream',
  metrics: 'text/plain; version=0.0.4; charset=utf-8',
} as const;

/** One thing that can be asked of this app over HTTP: from it follow what is parsed, and what is documented. */
export interface Operation<
  Q extends z.ZodType = z.ZodType,
  B extends z.ZodType = z.ZodType,
  A extends AnswerKind = AnswerKind,
> {
  method: 'GET' | 'HEAD' | 'PUT' | 'POST' | 'PATCH' | 'DELETE';
  /** With its parameters in braces; each of them is an id. */
  path: string;
  tag: string;
  summary: string;
  query?: Q;
  /** JSON, or bytes as they come. */
  body?: B | 'bytes';
  /** Of 204, nothing. */
  status?: 200 | 201 | 202 | 204;
  answer?: A;
}

type AnswerKind = z.ZodType | keyof typeof MEDIA;

/** What was asked, as the operation has it. */
export interface Asked<Q, B> {
  server: Server;
  request: Request;
  /** By name, each of them an id. */
  params: Record<string, string>;
  query: Q;
  body: B;
}

export function operation<
  Q extends z.ZodType = z.ZodUndefined,
  B extends z.ZodType = z.ZodUndefined,
  A extends AnswerKind = z.ZodUndefined,
>(own: Operation<Q, B, A>): Operation<Q, B, A> {
  return own;
}

/** A name of its own, and no way to anywhere: files lie under some of them. */
const id = z
  .string()
  .min(1)
  .max(200)
  .regex(/^(?!\.+$)[^/\\\0]+$/, 'no id');

/** Answers requests of one operation: what is returned is its JSON, unless it is a response already. */
export function serve<Q extends z.ZodType, B extends z.ZodType>(
  own: Operation<Q, B>,
  handle: (asked: Asked<z.infer<Q>, z.infer<B>>) => unknown,
) {
  return (
    request: Request,
    context: { params: Promise<Record<string, string | string[] | undefined>> },
  ): Promise<Response> =>
    timed(own, request, async () => {
      const params: Record<string, string> = {};
      // An address without parameters has none at all.
      for (const [name, value] of Object.entries((await context.params) ?? {})) {
        if (typeof value === 'string') params[name] = id.parse(value);
      }
      const query = own.query ? own.query.parse(Object.fromEntries(new URL(request.url).searchParams)) : undefined;
      const body = own.body && own.body !== 'bytes' ? own.body.parse(await jsonOf(request)) : undefined;
      const asked = { server: getServer(), request, params, query, body } as Asked<z.infer<Q>, z.infer<B>>;
      const result = await handle(asked);
      if (result instanceof Response) return result;
      const headers = { 'Cache-Control': 'no-store' };
      if (own.status === 204) return new Response(null, { status: 204, headers });
      return Response.json(result, { status: own.status ?? 200, headers });
    });
}

/** Two thousand programmes are named in less than a tenth of it. */
const MOST_JSON_BYTES = 4 << 20;

/** Answers, and tells how long that took, whatever came of it. */
async function timed(own: Operation, request: Request, work: () => Promise<Response>): Promise<Response> {
  const startedMs = performance.now();
  const response = await respond(work, request);
  const { status } = response;
  const ms = performance.now() - startedMs;
  const said = { request: requestId(request), method: own.method, operation: own.path, status, ms: Math.round(ms) };
  log.info(said, 'answered');
  getServer().metrics.answered({ operation: own.path, method: own.method, status }, ms / 1000);
  return response;
}

async function jsonOf(request: Request): Promise<unknown> {
  const text = await boundedText(bytesOf(request), MOST_JSON_BYTES);
  try {
    return parseBounded(text);
  } catch (error) {
    throw new AppError('bad-request', { reason: 'its body is not JSON' }, { cause: error });
  }
}

/** The bytes of a request, also where it has none. */
export function bytesOf({ body }: Request): AsyncIterable<Uint8Array> {
  return body ?? noBytes();
}

async function* noBytes(): AsyncGenerator<Uint8Array> {}
