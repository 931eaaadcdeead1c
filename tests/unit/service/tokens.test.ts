import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { openApi } from '$contract/open-api';
import { readFindings } from '$core/studies/elsewhere/elsewhere';
import { closeApp, openApp, type App } from '$service/app';
import { startStudy, viewStudy } from '$service/study/studies';
import { addToken, programOf, removeToken, viewTokens } from '$service/tokens';
import { logPage } from '$service/logbook';
import { endpointsOf } from '$ui/programs/endpoints';
import { makeTake } from '../takes';

let folder: string;
let app: App;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-tokens-'));
  app = openApp(folder);
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

describe('tokens of programs', () => {
  test('a secret is told once, lets in as what it was made for, and only its hash is kept', () => {
    const { id, secret } = addToken(app, { name: 'Night script', may: 'read' }, 'Ada');
    expect(secret).toMatch(/^farrier_[\w-]{43}$/);
    expect(programOf(app, `Bearer ${secret}`)).toEqual({ id, name: 'Night script', may: 'read' });
    expect(programOf(app, `bearer   ${secret}`)).toMatchObject({ id });
    expect(JSON.stringify(viewTokens(app))).not.toContain(secret.slice(8));
    const kept = app.db.$client.prepare('SELECT * FROM tokens').get() as { hash: string; used_at: number };
    expect(kept.hash).toBe(createHash('sha256').update(secret).digest('base64url'));
    expect(Date.now() - kept.used_at).toBeLessThan(60_000);
    app.db.$client.pragma('wal_checkpoint(TRUNCATE)');
    for (const file of readdirSync(folder, { withFileTypes: true }).filter((f) => f.isFile()))
      expect(readFileSync(join(folder, file.name)).includes(secret.slice(8)), file.name).toBe(false);
    expect(JSON.stringify(logPage(app, {}))).not.toContain(secret.slice(8));
  });

  test('no header is nobody; anything else that is no token is refused', () => {
    expect(programOf(app, null)).toBeNull();
    for (const header of ['', 'Bearer', 'Bearer ', 'Basic YTpi', 'Bearer farrier_', `Bearer farrier_${'x'.repeat(43)}`, `Bearer ${'x'.repeat(5000)}`])
      expect(() => programOf(app, header), header.slice(0, 30)).toThrow(/not known/);
  }); // prettier-ignore

  test('one that was taken back lets nobody in; a name stands for one program; programs make none', () => {
    const { id, secret } = addToken(app, { name: 'Dashboard', may: 'everything' }, 'Ada');
    expect(() => addToken(app, { name: 'Dashboard', may: 'read' }, 'Ada')).toThrow(/already/);
    expect(() => addToken(app, { name: 'Other', may: 'read' }, 'Dashboard', true)).toThrow(/makes no tokens/);
    expect(() => addToken(app, { name: ' ', may: 'read' }, 'Ada')).toThrow();
    removeToken(app, id, 'Ada');
    expect(() => programOf(app, `Bearer ${secret}`)).toThrow(/not known/);
    expect(() => removeToken(app, id, 'Ada')).toThrow(/no token/);
    expect(viewTokens(app).map((t) => t.name)).toEqual(['Night script']);
  });
});

describe('findings from elsewhere', () => {
  test('are read as they are written, or the one that cannot be is named', () => {
    expect(readFindings('Load at slip = 41.2 ± 0.4 kN; Slip = −0.3 mm\nCycles=1.2e6;')).toEqual([
      { label: 'Load at slip', value: 41.2, unit: 'kN', note: '± 0.4 kN' },
      { label: 'Slip', value: -0.3, unit: 'mm' },
      { label: 'Cycles', value: 1.2e6, unit: '1' },
    ]);
    expect(() => readFindings('Load: 41')).toThrow(/Load: 41.*Name = value unit/);
    expect(() => readFindings('Load = 41 smoots')).toThrow(/smoots/);
    expect(() => readFindings(Array.from({ length: 201 }, (_, i) => `a${i} = 1`).join(';'))).toThrow(/200/);
  });

  test('stand beside the other studies of a take, with their method, and are corrected as any', async () => {
    const take = makeTake(app, { signals: [{ name: 'Load', unit: 'kN', hz: 100, values: new Float32Array(100) }] }); // prettier-ignore
    const { view, done } = startStudy(app, { kind: 'elsewhere', takeId: take, name: 'By a script', settings: { findings: 'Peak = 7.25 kN', method: 'highest of all' } }, 'Night script'); // prettier-ignore
    await done;
    const study = viewStudy(app, view.id);
    expect(study).toMatchObject({ state: 'done', findings: [{ label: 'Peak', value: 7.25, unit: 'kN' }] });
    expect(study.says).toBe('Found elsewhere: Peak = 7.25 kN. Method: highest of all.');
  });
});

test('the page of endpoints lists all that the document says: values, what is sent, what is answered', () => {
  const lines = endpointsOf(openApi());
  expect(lines.length).toBeGreaterThan(150);
  for (const { path, says, need } of lines) expect([path.startsWith('/'), says.length > 5, need.length > 5]).toEqual([true, true, true]); // prettier-ignore
  const one = lines.find((l) => l.key === 'get /api/takes/{id}/export')!;
  expect(one.values.map((v) => [v.name, v.where, v.required])).toEqual([['id', 'in the path', true], ['format', 'after the question mark', false], ['signals', 'after the question mark', false], ['options', 'after the question mark', false]]); // prettier-ignore
  expect(one.answer).toBe('a file (application/octet-stream)');
  expect(lines.find((l) => l.key === 'post /api/tokens')!.body).toContain('"may"');
});

test('the example scripts ask for what there is', () => {
  const python = readFileSync('docs/examples/finding.py', 'utf8');
  const script = readFileSync('docs/examples/finding.ts', 'utf8');
  const known = endpointsOf(openApi()).map((l) => l.path);
  for (const text of [python, script]) {
    for (const path of ['/api/overview', '/api/studies', '/export']) expect(text).toContain(path);
    expect(text.split('\n').length).toBeLessThanOrEqual(42);
  }
  for (const path of ['/api/overview', '/api/studies', '/api/takes/{id}', '/api/takes/{id}/export']) expect(known).toContain(path); // prettier-ignore
});
