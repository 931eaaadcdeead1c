import { mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import type { RequestEvent } from '@sveltejs/kit';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { z } from 'zod';
import { API, type Key } from '$contract/api';
import { addressOf } from '$contract/api/address';
import { flag, jsonObject, list, numbers, type Endpoint } from '$contract/api/endpoint';
import { openApi } from '$contract/open-api';
import { closeApp, openApp, type App } from '$service/app';
import { needOf } from '../../src/routes/needs';
import { serve } from '../../src/routes/serve';

const root = resolve(import.meta.dirname, '../../src/routes');
const all = Object.entries(API) as [Key, Endpoint][];
/** Methods of route files, by their address as the list writes it. */
const served = readdirSync(join(root, 'api'), { recursive: true, encoding: 'utf8' })
  .filter((path) => path.endsWith('+server.ts'))
  .flatMap((path) => {
    const text = readFileSync(join(root, 'api', path), 'utf8');
    const route = `/api/${path}`.replace(/\/?\+server\.ts$/, '');
    return [...text.matchAll(/export const (GET|POST|PATCH|PUT|DELETE)\b/g)].map(([, method]) => ({
      key: `${method} ${route}`,
      by: new RegExp(`${method} = serve\\(\\s*'${method} ${route.replace(/[[\].]/g, '\\$&')}'`).test(text),
    }));
  });

describe('the list of endpoints', () => {
  test('holds every one that is served, each served by its own entry, and nothing else', () => {
    expect(served.map((s) => s.key).sort()).toEqual(Object.keys(API).sort());
    expect(served.filter((s) => !s.by)).toEqual([]);
    expect(all.length).toBeGreaterThan(90);
  });

  test('says what each does and needs; whatever changes something is for no mere watcher', () => {
    for (const [key, { says, need, asks }] of all) {
      expect(says, key).toMatch(/^[A-Z].*\.$/);
      const [method, route] = key.split(' ');
      // What only asks is for watchers, too.
      if (method !== 'GET') expect(need === 'look', key).toBe(asks === true);
      expect(needOf(method, route), key).toBe(method === 'GET' ? 'look' : need);
      if (method === 'GET') expect(need, key).toBe('look');
    }
    expect(needOf('POST', '/api/nothing')).toBe('controls');
  });

  test('is an OpenAPI 3.1 document: every endpoint with its path values, its query and what is sent', () => {
    const document = JSON.parse(JSON.stringify(openApi())) as ReturnType<typeof openApi>;
    expect(document.openapi).toBe('3.1.0');
    interface Operation {
      summary: string;
      parameters: { name: string; in: string; required: boolean; schema: object }[];
      requestBody?: { content: Record<string, { schema: Record<string, unknown> }> };
      responses: Record<string, { content: object }>;
    }
    for (const [key, endpoint] of all) {
      const [method, route] = key.split(' ');
      const path = route.replace(/\[(\.\.\.)?(\w+)\]/g, '{$2}');
      const operation = document.paths[path][method.toLowerCase()] as Operation;
      expect(operation.summary, key).toBe(endpoint.says);
      const named = operation.parameters.filter((p) => p.in === 'path').map((p) => `{${p.name}}`);
      expect(named, key).toEqual(path.match(/\{\w+\}/g) ?? []);
      const asked = operation.parameters.filter((p) => p.in === 'query').map((p) => p.name);
      expect(asked, key).toEqual(Object.keys(endpoint.query?.shape ?? {}));
      expect(Boolean(operation.requestBody), key).toBe(Boolean(endpoint.body ?? endpoint.sends));
      expect(operation.responses[200].content, key).toBeTruthy();
    }
    const cells = document.paths['/api/channels/cells'].post as Operation;
    expect(cells.requestBody!.content['application/json'].schema).toMatchObject({
      type: 'object',
      required: expect.arrayContaining(['cells', 'comma', 'apply']),
      properties: { apply: { type: 'boolean' }, cells: { type: 'array', maxItems: 20_000 } },
    });
    const at = document.paths['/api/takes/{id}/at'].get as Operation;
    expect(at.parameters.find((p) => p.name === 's')!.required).toBe(false);
    const window = document.paths['/api/takes/{id}/window'].get as Operation;
    expect(window.parameters.find((p) => p.name === 'from')!.required).toBe(true);
  });
});

describe('an address', () => {
  const texts = fc.string({ minLength: 1 }).filter((s) => !/[\uD800-\uDFFF]/.test(s));
  test('carries any value in its path, and leads nowhere else', () => {
    fc.assert(
      fc.property(texts, (id) => {
        const path = addressOf('GET /api/channels/[id]/sheet', { params: { id } });
        const parts = path.split('/');
        expect(parts).toHaveLength(5);
        expect(decodeURIComponent(parts[3])).toBe(id);
      }),
    );
    const at = { serial: 'QH/1', terminal: 'A1/2 b' };
    expect(addressOf('GET /api/units/[serial]/[...terminal]', { params: at })).toBe(
      '/api/units/QH%2F1/A1/2%20b',
    );
  });

  test('carries lists, texts and flags in its query; what is not said is left out', () => {
    fc.assert(
      fc.property(texts, fc.array(fc.nat(5000), { maxLength: 9 }), fc.boolean(), (find, ids, again) => {
        const address = addressOf('GET /api/logbook', {
          query: { find, ids, again, none: undefined, no: null },
        });
        const q = new URL(address, 'http://x').searchParams;
        expect(q.get('find')).toBe(find);
        expect(numbers.parse(q.get('ids')!)).toEqual(ids);
        expect(flag.parse(q.get('again') ?? undefined)).toBe(again);
        expect([...q.keys()].sort()).toEqual(again ? ['again', 'find', 'ids'] : ['find', 'ids']);
      }),
    );
    const options = { separator: ';', note: 'a,b & c=d' };
    const address = addressOf('GET /api/takes/[id]/export', { params: { id: 't' }, query: { options: JSON.stringify(options) } }); // prettier-ignore
    expect(jsonObject.parse(new URL(address, 'http://x').searchParams.get('options')!)).toEqual(options);
  });

  test.each([['1,x'], ['-1'], ['1.5'], ['1e400'], [Array(5001).fill(1).join()]])(
    'refuses the list %#',
    (text) => expect(numbers.safeParse(text).success).toBe(false),
  );
  test.each([['[1]'], ['7'], ['null'], ['{'], ['"x"']])('refuses %s as options', (text) =>
    expect(jsonObject.safeParse(text).success).toBe(false),
  );
  test('a list keeps within its bounds', () => {
    expect(list(2).parse(undefined)).toEqual([]);
    expect(list(2).parse('a,,b')).toEqual(['a', 'b']);
    expect(list(2).safeParse('a,b,c').success).toBe(false);
    expect(list(2, 3).safeParse('abcd').success).toBe(false);
  });
});

describe('what is asked of an endpoint', () => {
  let folder: string;
  let app: App;
  const modules = import.meta.glob<Record<string, (event: RequestEvent) => Promise<Response>>>(
    '../../src/routes/api/**/+server.ts',
  );
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'farrier-api-'));
    app = openApp(folder);
  });
  afterAll(async () => {
    await closeApp(app);
    app.db.$client.close();
    rmSync(folder, { recursive: true, force: true });
  });
  const person = { viewer: { id: 'v', name: 'Ada' }, watches: false };
  function event(key: Key, query: string, body?: BodyInit): RequestEvent {
    const [method] = key.split(' ');
    const url = new URL(`http://farrier/x${query}`);
    return {
      locals: { app, person },
      params: { id: 'none', serial: 'none', terminal: 'A/1' },
      url,
      request: new Request(url, { method, body: method === 'GET' ? undefined : body }),
      cookies: { set: () => undefined },
    } as unknown as RequestEvent;
  }
  const handlerOf = async (key: Key) => {
    const [method, route] = key.split(' ');
    return (await modules[`../../src/routes${route}/+server.ts`]())[method];
  };

  test.each(all.filter(([, e]) => e.body))(
    '%s refuses what its schema does not know, in words, and changes nothing',
    async (key) => {
      const handler = await handlerOf(key);
      const before = JSON.stringify(app.db.$client.prepare('SELECT count(*) n FROM revisions').get());
      for (const body of ['', '{', 'null', '[[[]]]', '7', '{"nobody knows this": 1, "do": "nothing"}']) {
        const response = await handler(event(key, '', body));
        const { error } = (await response.json()) as { error?: { what: string; next?: string } };
        // Settings of any name are checked by the kind they belong to; “none” is not there either way.
        expect([400, 404, 503], `${key} ${body}: ${response.status}`).toContain(response.status);
        expect(error!.what.length, key).toBeGreaterThan(5);
        expect(error!.next, `${key} ${body}`).toBeTruthy();
      }
      expect(JSON.stringify(app.db.$client.prepare('SELECT count(*) n FROM revisions').get())).toBe(before);
    },
  );

  test.each(all.filter(([, e]) => e.query))('%s reads its query by the schema', async (key, { query }) => {
    const handler = await handlerOf(key);
    const junk = Object.keys(query!.shape).map((name) => `${name}=${encodeURIComponent('{"x'.repeat(4000))}`);
    const response = await handler(event(key, `?${junk.join('&')}`, 'x'));
    expect(response.status, key).toBeGreaterThanOrEqual(400);
    expect(response.status, key).toBeLessThan(500);
    expect(((await response.json()) as { error: { what: string } }).error.what).toBeTruthy();
  });

  test('gets what its schemas make of it, and nothing that they do not name', async () => {
    const seen: unknown[] = [];
    const answer = serve('GET /api/takes/[id]/at', ({ params, query, by }) => {
      seen.push({ params, query, by });
      return [[1]];
    });
    const made = await answer(event('GET /api/takes/[id]/at', '?signals=3,5&s=0.5,2&other=1&as=recorded'));
    expect(await made.json()).toEqual([[1]]);
    expect(seen).toEqual([
      {
        params: { id: 'none', serial: 'none', terminal: 'A/1' },
        query: { signals: [3, 5], s: [0.5, 2], uncertainty: false, as: 'as recorded' },
        by: 'Ada',
      },
    ]);
    expect(z.object({ error: z.object({ what: z.string() }) }).safeParse(await (await answer(event('GET /api/takes/[id]/at', '?s=1,2,3'))).json()).success).toBe(true); // prettier-ignore
  });
});
