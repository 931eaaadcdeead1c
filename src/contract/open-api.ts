import { z } from 'zod';
import { API } from './api';
import type { Endpoint } from './api/endpoint';

const NEEDS = {
  look: 'Needs nothing but to be let in.',
  'take part': 'Is not for links that can only watch.',
  controls: 'Needs the controls.',
};
const BYTES = { type: 'string', format: 'binary' } as const;

/** A schema as it is written in the document: what is not JSON, such as a check in words, is left open. */
const written = (schema: z.ZodType, io: 'input' | 'output') => {
  const { $schema, ...plain } = z.toJSONSchema(schema, { io, unrepresentable: 'any' });
  void $schema;
  return plain;
};

function operation(key: string, { says, need, query, body, sends, answer }: Endpoint) {
  const [, path] = key.split(' ');
  const names = [...path.matchAll(/\[(?:\.\.\.)?(\w+)\]/g)].map(([, name]) => name);
  const required = new Set(query ? ((written(query, 'input').required as string[] | undefined) ?? []) : []);
  const values = query
    ? (written(query, 'input').properties as Record<string, object> | undefined)
    : undefined;
  const media = body
    ? { 'application/json': { schema: written(body, 'input') } }
    : sends && { [sends === 'file' ? 'application/octet-stream' : 'multipart/form-data']: { schema: BYTES } };
  const content =
    'file' in answer
      ? { [answer.file]: { schema: BYTES } }
      : 'bytes' in answer
        ? { [answer.bytes]: { schema: BYTES } }
        : { 'application/json': { schema: written(answer, 'output') } };
  return {
    summary: says,
    description: NEEDS[need],
    'x-need': need,
    parameters: [
      ...names.map((name) => ({ name, in: 'path', required: true, schema: { type: 'string' } })),
      ...Object.entries(values ?? {}).map(([name, schema]) => ({
        name,
        in: 'query',
        required: required.has(name),
        schema,
      })),
    ],
    ...(media && { requestBody: { required: true, content: media } }),
    responses: {
      200: { description: 'Done.', content },
      default: {
        description: 'It was refused, or did not work: what, where, why, and the next step.',
        content: { 'application/json': { schema: { $ref: '#/components/schemas/Fault' } } },
      },
    },
  };
}

/** All endpoints as an OpenAPI 3.1 document (spec.openapis.org/oas/v3.1). */
export function openApi() {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [key, endpoint] of Object.entries(API) as [string, Endpoint][]) {
    const [method, route] = key.split(' ');
    const path = route.replace(/\[(?:\.\.\.)?(\w+)\]/g, '{$1}');
    (paths[path] ??= {})[method.toLowerCase()] = operation(key, endpoint);
  }
  const text = { type: 'string' };
  return {
    openapi: '3.1.0',
    info: { title: 'Farrier', version: '1' },
    paths,
    components: {
      schemas: {
        Fault: {
          type: 'object',
          properties: {
            error: {
              type: 'object',
              properties: { what: text, where: text, why: text, next: text },
              required: ['what'],
            },
          },
          required: ['error'],
        },
      },
    },
  };
}
