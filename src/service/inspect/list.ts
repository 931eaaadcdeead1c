import { LRUCache } from 'lru-cache';
import {
  NOTHING_KNOWN,
  filterTakes,
  groupOfTake,
  orderTakes,
  type TakeAbout,
  type TakeFilter,
  type TakeLine,
} from '$contract/take-list';
import type { FoundTakes, Offered } from '$contract/api/inspect';
import { takeTexts, type TakeText } from '$store/takes';
import { jobOf, type App } from '../app';

/** Lines by the row they were made of: thousands of takes are read and made words of once, not at every letter typed. */
const known = new LRUCache<string, { row: string; line: TakeLine }>({ max: 20_000 });

function lineOf(row: TakeText): TakeLine {
  const { id, number, name, folder, state, startedAt, durationMs, bytes } = row;
  const text = [number, name, folder, state, startedAt, durationMs, bytes, row.tags, row.about].join('\n');
  const held = known.get(id);
  if (held?.row === text) return held.line;
  const about = row.about ? (JSON.parse(row.about) as TakeAbout) : NOTHING_KNOWN;
  const tags = JSON.parse(row.tags) as string[];
  const line = { ...about, id, number, name, folder, state, startedAt, durationMs, tags, bytes };
  known.set(id, { row: text, line });
  return line;
}

/** Takes of the job as they stand on the list, newest first: those that can be looked at. */
export const takeLines = (app: App): TakeLine[] => takeTexts(app.db, jobOf(app).id, false).map(lineOf);

/** Takes in the bin, and how much disk they hold. */
export function binned(app: App): { takes: TakeLine[]; bytes: number } {
  const takes = takeTexts(app.db, jobOf(app).id, true).map(lineOf);
  return { takes, bytes: takes.reduce((sum, t) => sum + t.bytes, 0) };
}

export interface Search {
  filter: TakeFilter;
  order: string;
  group: string;
  from: number;
  count: number;
}

/** Takes that a filter means: a part of them in their order, group by group, and the ids of all. */
export function findTakes(
  app: App,
  { filter, order, group, from, count }: Search,
  now = Date.now(),
): FoundTakes {
  const lines = takeLines(app);
  const found = orderTakes(filterTakes(lines, filter, now), order);
  const groups = new Map<string, TakeLine[]>();
  for (const line of found) {
    const key = groupOfTake(line, group);
    const held = groups.get(key);
    if (held) held.push(line);
    else groups.set(key, [line]);
  }
  // Those without a group come last.
  const parts = [...groups].sort(([a], [b]) => Number(a === '') - Number(b === ''));
  const all = parts.flatMap(([, held]) => held);
  return {
    all: lines.length,
    ids: all.map((t) => t.id),
    groups: parts.map(([name, held]) => ({ name, count: held.length })),
    takes: all.slice(from, from + count),
    from,
  };
}

const MOST_VALUES = 200;

/** What filters can be made of: what there is among the takes of the job. */
export function offeredBy(app: App): Offered {
  const lines = takeLines(app);
  const sorted = (values: Iterable<string>) =>
    [...new Set(values)]
      .filter(Boolean)
      .sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))
      .slice(0, MOST_VALUES);
  const facts = sorted(lines.flatMap((t) => Object.keys(t.facts)));
  return {
    facts: Object.fromEntries(facts.map((name) => [name, sorted(lines.flatMap((t) => t.facts[name] ?? []))])),
    tags: sorted(lines.flatMap((t) => t.tags)),
    folders: sorted(lines.map((t) => t.folder)),
    plans: sorted(lines.map((t) => t.plan)),
    channels: channelsOf(lines),
  };
}

/** Channels of some takes by their names, in the order in which they first come, with the unit of the newest. */
export function channelsOf(lines: readonly TakeLine[]): { name: string; unit: string; takes: number }[] {
  const found = new Map<string, { name: string; unit: string; takes: number }>();
  for (const { channels } of lines)
    for (const { name, unit } of channels) {
      const held = found.get(name);
      if (held) held.takes++;
      else found.set(name, { name, unit, takes: 1 });
    }
  return [...found.values()];
}
