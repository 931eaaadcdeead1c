import { asFarrierError, badInput, notFound } from '$core/errors';
import { cellText, type Comma } from '$contract/columns';
import { channelKind, type Channel } from '$contract/channel';
import type { App } from '../app';
import { newChannels, readCells, type Cell } from './channels';
import type { EditWorld } from './edits';

/** A pasted row below the last channel. */
export interface NewRow {
  /** Id of the channel whose kind, group and unit of the rig it has unless it says otherwise. */
  like: string;
  cells: { key: string; text: string }[];
}
export interface RowResult {
  name: string;
  /** What it would be: kind and terminal. */
  says: string;
  fault: string | null;
}

/** Read when the channel is made; the other cells are written into it. */
const MAKING = new Set(['name', 'kind', 'wire', 'formula']);

/** Makes channels of rows that were pasted below the last one; a row of which anything is refused is none.
 *  @returns the channels, all others as they were given; what becomes of each row @throws `not_found` */
export function makeRows(
  app: App,
  world: EditWorld,
  rows: readonly NewRow[],
  comma: Comma | null,
): { made: Channel[]; results: RowResult[] } {
  const made: Channel[] = [];
  const results = rows.map((row): RowResult => {
    const text = (key: string) => row.cells.find((c) => c.key === key)?.text.trim() ?? '';
    const like = world.channels.find((c) => c.id === row.like);
    if (!like) throw notFound('channel', row.like);
    const refused = (why: string, says = ''): RowResult => ({ name: text('name'), says, fault: why });
    const present = [...world.channels, ...made];
    try {
      if (!text('name')) throw badInput('name', '', 'A new channel needs a name: paste that column, too.');
      const kind = kindOf(world.channels, text('kind'), like);
      const formula = text('formula');
      const wired = like.wire !== null && channelKind(kind).accepts.length > 0;
      const [fresh] = newChannels(
        app,
        [
          {
            name: text('name'),
            kind,
            group: like.group,
            wire: wired
              ? { unit: like.wire!.unit, terminal: text('wire') || freeTerminal(app, kind, like, present) }
              : null,
            ...(formula && { settings: { formula } }),
          },
        ],
        present,
      );
      const cells: Cell[] = row.cells
        .filter((c) => !MAKING.has(c.key) && c.text.trim())
        .map((c) => ({ id: fresh.id, ...c }));
      const written = readCells({ ...world, channels: [...present, fresh] }, cells, comma);
      const bad = written.results.find((r) => r.fault);
      const says = [kind, fresh.wire?.terminal].filter(Boolean).join(' on ');
      if (bad) return refused(`${bad.column} “${bad.text.trim()}”: ${bad.fault}`, says);
      made.push(written.channels.at(-1)!);
      return { name: fresh.name, says, fault: null };
    } catch (error) {
      const { what, next } = asFarrierError(error, text('name')).text;
      return refused([what, next].filter(Boolean).join(' '));
    }
  });
  return { made, results };
}

/** A kind by its name, or as the table shows it of a channel that has it. */
function kindOf(channels: Channel[], text: string, like: Channel): string {
  if (!text) return like.kind;
  return channels.find((c) => cellText(c, 'kind') === text)?.kind ?? channelKind(text).kind;
}

/** The next terminal after a channel's that takes its kind and is free. @throws `bad_input` when there is none */
function freeTerminal(app: App, kind: string, like: Channel, present: Channel[]): string {
  const unit = app.live.status.units.find((u) => u.description.serial === like.wire!.unit)?.description;
  const { accepts } = channelKind(kind);
  const fit = (unit?.modules ?? []).flatMap((m) => m.terminals).filter((t) => accepts.includes(t.kind));
  const from = fit.findIndex((t) => t.id === like.wire!.terminal);
  const taken = new Set(present.flatMap((c) => (c.wire?.unit === like.wire!.unit ? [c.wire.terminal] : [])));
  const free = [...fit.slice(from + 1), ...fit.slice(0, from + 1)].find((t) => !taken.has(t.id));
  if (free) return free.id;
  throw badInput('terminal', '', `${unit?.name ?? like.wire!.unit} has no free one for a ${kind}.`);
}
