import * as z from 'zod';
import { errorAnswer } from './answers';
import { MEDIA, type Operation } from './operation';
import { OPERATIONS } from './operations';

/** Of the API alone: what a client relies on changes with the first number. Version 1 named rows lines, and transfers sendings. */
const API_VERSION = '2.20.0';

/** Spoken by a protocol of its own, which describes itself. */
const UPLOADS = '/api/uploads';

type Json = Record<string, unknown>;

/** The description of everything that can be asked over HTTP, by OpenAPI 3.1, from the schemas that requests are parsed with. */
export function openApi(): Json {
  const paths: Record<string, Json> = {};
  for (const [operationId, own] of Object.entries(OPERATIONS) as [string, Operation][]) {
    paths[own.path] = { ...paths[own.path], [own.method.toLowerCase()]: describeOperation(operationId, own) };
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Opsimeter',
      version: API_VERSION,
      description:
        'Everything that the pages do. Levels are in the unit that their name ends with; positions are frames. ' +
        `Files above 100 MB are best sent to ${UPLOADS} by tus 1.0.0, which goes on after an interruption. ` +
        'A bundle is a JSON head and arrays of numbers; docs/api.md says how it is laid out.',
    },
    paths,
    components: { schemas: { Error: schemaOf(errorAnswer, 'output') } },
  };
}

function describeOperation(operationId: string, own: Operation): Json {
  const { tag, summary, query, body, status = 200, answer } = own;
  const content =
    answer === undefined || status === 204
      ? undefined
      : typeof answer === 'string'
        ? { [MEDIA[answer]]: {} }
        : { 'application/json': { schema: schemaOf(answer, 'output') } };
  return {
    operationId,
    tags: [tag],
    summary,
    parameters: [...pathParameters(own.path), ...(query ? queryParameters(query) : [])],
    ...(body
      ? {
          requestBody: {
            required: true,
            content:
              body === 'bytes'
                ? { 'application/octet-stream': {} }
                : { 'application/json': { schema: schemaOf(body, 'input') } },
          },
        }
      : {}),
    responses: {
      [status]: { description: 'As asked.', ...(content ? { content } : {}) },
      default: {
        description: 'What happened, what is safe, and what to do.',
        content: { 'application/json': { schema: { $ref: '#/components/schemas/Error' } } },
      },
    },
  };
}

function pathParameters(path: string): Json[] {
  return [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: { type: 'string' },
  }));
}

/** Of a choice of queries, each parameter that one of them has; required is what all of them ask for. */
function queryParameters(query: z.ZodType): Json[] {
  const schema = schemaOf(query, 'input') as { anyOf?: QuerySchema[] } & QuerySchema;
  const choices = schema.anyOf ?? [schema];
  const names = [...new Set(choices.flatMap(({ properties }) => Object.keys(properties ?? {})))];
  return names.map((name) => ({
    name,
    in: 'query',
    required: choices.every(({ required }) => required?.includes(name)),
    schema: choices.find(({ properties }) => properties?.[name])?.properties?.[name] ?? {},
  }));
}

interface QuerySchema {
  properties?: Json;
  required?: string[];
}

function schemaOf(schema: z.ZodType, io: 'input' | 'output'): Json {
  const { $schema, ...own } = z.toJSONSchema(schema, { io, unrepresentable: 'any', target: 'draft-2020-12' });
  return own;
}
