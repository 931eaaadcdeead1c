import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { join, relative, resolve } from 'node:path';
import ts from 'typescript';
import { describe, expect, test } from 'vitest';
import { CHANNEL_KINDS } from '$contract/kinds/kinds';
import { mayImport, rooms } from '../../scripts/rooms.mjs';

// What docs/house.md promises of the code itself.
const root = resolve(import.meta.dirname, '../..');
const filesOf = (folder: string): string[] =>
  readdirSync(join(root, folder), { recursive: true, encoding: 'utf8' })
    .filter((path) => /\.(ts|svelte|mjs)$/.test(path))
    .map((path) => join(folder, path));
const sources = filesOf('src');
const textOf = new Map(sources.map((path) => [path, readFileSync(join(root, path), 'utf8')]));

/** Files of ours that a file imports, types included. */
function importsOf(path: string): string[] {
  const text = textOf.get(path)!;
  const scripts = path.endsWith('.svelte')
    ? [...text.matchAll(/<script[^>]*>([\s\S]*?)<\/script>/g)].map((m) => m[1]).join('\n')
    : text;
  return ts.preProcessFile(scripts).importedFiles.flatMap(({ fileName }) => {
    const [room] = fileName.split('/');
    const base =
      room in rooms
        ? join(rooms[room as keyof typeof rooms], fileName.slice(room.length))
        : fileName.startsWith('.')
          ? resolve(root, path, '..', fileName)
          : null;
    if (!base) return [];
    const found = [base, `${base}.ts`, base.replace(/\.js$/, '.ts')].find((p) =>
      textOf.has(relative(root, p)),
    );
    return found ? [relative(root, found)] : [];
  });
}

/** Files that import each other round and round, each round once, from its first file. */
function rounds(graph: Map<string, string[]>): string[] {
  const found = new Set<string>();
  const done = new Set<string>();
  const walk = (path: string, way: string[]): void => {
    const at = way.indexOf(path);
    if (at >= 0) {
      const round = way.slice(at);
      const first = round.indexOf([...round].sort()[0]);
      found.add([...round.slice(first), ...round.slice(0, first)].join(' > '));
      return;
    }
    if (done.has(path)) return;
    for (const next of graph.get(path) ?? []) walk(next, [...way, path]);
    done.add(path);
  };
  for (const path of graph.keys()) walk(path, []);
  return [...found];
}

test('no file imports itself over others', () => {
  expect(rounds(new Map([['a', ['b']], ['b', ['c', 'd']], ['c', ['a']], ['d', []]]))).toEqual(['a > b > c']); // prettier-ignore
  const graph = new Map(sources.map((path) => [path, importsOf(path)]));
  expect([...graph.values()].flat().length).toBeGreaterThan(1000); // the imports were understood
  expect(rounds(graph)).toEqual([]);
});

test('nothing is exported that no other file uses', () => {
  const users = [...sources, ...filesOf('tests'), ...filesOf('demo'), ...filesOf('scripts')];
  const words = new Map(
    users.map((path) => [path, new Set(readFileSync(join(root, path), 'utf8').match(/[\w$]+/g))]),
  );
  const dead: string[] = [];
  for (const path of sources) {
    // What the framework calls by its name is used by it.
    if (/^src\/(routes|hooks)/.test(path)) continue;
    for (const [, name] of textOf
      .get(path)!
      .matchAll(/^export (?:async )?(?:const|function\*?|class) ([\w$]+)/gm))
      if (!users.some((user) => user !== path && words.get(user)!.has(name))) dead.push(`${path}: ${name}`);
  }
  expect(dead).toEqual([]);
});

test('no file of the application is longer than 400 lines', () => {
  const long = [...textOf]
    .map(([path, text]) => ({ path, lines: text.split('\n').length - 1 }))
    .filter(({ lines }) => lines > 400);
  expect(long).toEqual([]);
});

describe.each(Object.entries(mayImport))('the room %s', (room, allowed) => {
  test('says in a first file what it is for, what it may import and where to begin', () => {
    const path = join(root, 'src', room, 'README.md');
    expect(existsSync(path)).toBe(true);
    const text = readFileSync(path, 'utf8');
    expect(text.split('\n')[0]).toMatch(new RegExp(`^# ${room}: `));
    expect(/^May import: (.*)\.$/m.exec(text)?.[1]).toBe(
      allowed.join(', ') || 'nothing but small pure libraries',
    );
    const begin = /^Begin at: (.*)\.$/m.exec(text)?.[1] ?? '';
    const named = [...begin.matchAll(/`([^`]+)`/g)].map(([, file]) => file);
    expect(named.length).toBeGreaterThan(0);
    for (const file of named) expect(existsSync(join(root, 'src', room, file)), file).toBe(true);
  });
  test('imports only what it may', () => {
    const others = new Set(
      sources
        .filter((path) => path.startsWith(`src/${room}/`))
        .flatMap(importsOf)
        .map((path) => path.split('/')[1])
        .filter((other) => other !== room && other in mayImport),
    );
    for (const other of others) expect(allowed).toContain(other);
  });
});

test('facts about a kind of channel stand in the kind: nothing else names one', () => {
  // Words that mean something else, too, cannot be told apart by their letters.
  const PLAIN =
    /^(strain bridge|bridge sensor|platinum sensor|current loop|potentiometer|cold junction|driven \w+)$/;
  const names = CHANNEL_KINDS.map((k) => k.kind).filter((kind) => PLAIN.test(kind));
  expect(names).toHaveLength(8);
  const MAY = [
    'src/contract/kinds/', // they stand there
    'src/engine/units/', // stand-ins play what hangs on their own terminals
    'src/core/teds/', // words of a standard's templates
    'src/contract/chip.ts', // a chip's template says which it means
    'src/engine/signals.ts', // the junction is made by the unit, not by a person
  ];
  const named = sources
    .filter((path) => !MAY.some((may) => path.startsWith(may)))
    .flatMap((path) =>
      names.filter((kind) => textOf.get(path)!.includes(`'${kind}'`)).map((k) => `${path}: ${k}`),
    );
  expect(named).toEqual([
    'src/contract/sensor.ts: bridge sensor',
    'src/ui/sensors/SensorsPage.svelte: bridge sensor',
  ]); // what a new one begins as
});
