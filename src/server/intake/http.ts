/** What the simulated intakes have in common over HTTP: who may ask, and lines that break off. */
import { createHash } from 'node:crypto';
import { AppError } from '@/core/errors/app-error';
import { boundedText, parseBounded } from '../bounded-json';
import { bytesOf } from '../http/operation';
import { respond } from '../http/respond';
import { isSignedBy } from '../receivers/signature';
import { getServer, type Server } from '../server';
import { breaksOff, intakeOf, type SimulatedIntake } from './intakes';

const MOST_JSON_BYTES = 4 << 20;

/** Answers for an intake, if the request is signed with its secret; where the connection is to break off, it does so in the answer. */
export function answerForIntake(
  request: Request,
  intakeId: string,
  work: (server: Server, intake: SimulatedIntake, isBroken: boolean) => Promise<Response> | Response,
): Promise<Response> {
  return respond(async () => {
    const server = getServer();
    const intake = intakeOf(server, intakeId);
    const signed = {
      method: request.method,
      path: new URL(request.url).pathname,
      content: request.headers.get('X-Content') ?? '',
    };
    // One without a secret is none that can be asked from afar.
    if (
      !intake.secret ||
      !isSignedBy(intake.secret, request.headers.get('Authorization'), signed, server.clock.now())
    ) {
      throw new AppError('not-signed', {});
    }
    const isBroken = breaksOff(server, intakeId);
    const response = await work(server, intake, isBroken);
    return isBroken ? brokenOff() : response;
  });
}

/** A body of JSON that is the one that was signed for. */
export async function signedJson(request: Request): Promise<unknown> {
  const text = await boundedText(bytesOf(request), MOST_JSON_BYTES);
  if (createHash('sha256').update(text).digest('hex') !== request.headers.get('X-Content')) {
    throw new AppError('not-signed', {});
  }
  try {
    return parseBounded(text);
  } catch (error) {
    throw new AppError('bad-request', { reason: 'its body is not JSON' }, { cause: error });
  }
}

/** An answer that ends before its end. The server's log then says that it could not be sent, and why. */
function brokenOff(): Response {
  const body = new ReadableStream({
    start(controller) {
      controller.enqueue(new TextEncoder().encode('{'));
    },
    pull(controller) {
      controller.error(new Error('the simulated connection breaks off'));
    },
  });
  return new Response(body, { headers: { 'Cache-Control': 'no-store' } });
}
