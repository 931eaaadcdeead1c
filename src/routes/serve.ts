import type { RequestEvent } from '@sveltejs/kit';
import type { z } from 'zod';
import { API, type AnswerOf, type BodyOut, type Key, type Params, type QueryOut } from '$contract/api';
import type { Endpoint } from '$contract/api/endpoint';
import { check } from '$service/faults';
import { readJson, route } from './http';

/** What an endpoint is asked, read by its schemas. */
export interface Asked<K extends Key> {
  app: App.Locals['app'];
  person: App.Locals['person'];
  /** Who asks, by name. */
  by: string;
  params: Params<K>;
  query: QueryOut<K>;
  body: BodyOut<K>;
  event: RequestEvent;
}

/** A server route by what the list says of it: what comes in is read by its schemas, what goes out is typed by it. */
export const serve = <K extends Key>(
  key: K,
  answer: (asked: Asked<K>) => AnswerOf<K> | Promise<AnswerOf<K>>,
) =>
  route(async (event) => {
    const { body, query }: Endpoint = API[key];
    const { app, person } = event.locals;
    return answer({
      app,
      person,
      by: person.viewer.name,
      params: event.params as Params<K>,
      query: (query && readQuery(query, event.url.searchParams)) as QueryOut<K>,
      body: (body && (await readJson(event.request, body))) as BodyOut<K>,
      event,
    });
  });

/** Values after the question mark; what the schema does not name is left out. @throws `bad_input` */
const readQuery = (schema: z.ZodObject, values: URLSearchParams) =>
  check(
    schema,
    Object.fromEntries(Object.keys(schema.shape).flatMap((k) => (values.has(k) ? [[k, values.get(k)]] : []))),
  );
