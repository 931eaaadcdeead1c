import { statSync } from 'node:fs';
import { join } from 'node:path';
import type { TakeHead } from '$contract/take';
import type { TakeAbout } from '$contract/take-list';
import type { Db } from '$store/database';
import { TakeReader } from '$store/take/reader';
import { changeTakes, forgetStrips, getTake, putTake } from '$store/takes';

/** What a take is found by. */
function aboutOf(reader: TakeReader, from: string | null): TakeAbout {
  const { head } = reader;
  return {
    facts: head.facts,
    channels: reader.signals.filter((s) => s.channelId).map(({ name, unit }) => ({ name, unit })),
    notes: reader
      .notes()
      .filter((n) => ['mark', 'note'].includes(n.kind))
      .map((n) => n.says),
    plan: head.planName,
    from: head.from ?? from,
    judgement: reader.judgements().at(-1) ?? null,
    mended: reader.signals.some((s) => s.mends.length > 0),
  };
}

/** Reads anew what the list says of a take: to be called whenever its file was added to.
 *  @param from file it was brought in from, where its own does not say @throws `not_found`, `damaged` */
export function lookInto({ db, folder }: { db: Db; folder: string }, id: string, from?: string): void {
  const path = join(folder, 'takes', `${id}.take`);
  const reader = new TakeReader(path);
  try {
    const known = from ?? getTake(db, id).about?.from ?? null;
    changeTakes(db, [id], { about: aboutOf(reader, known), bytes: statSync(path).size });
    forgetStrips(db, id);
  } finally {
    reader.close();
  }
}

/** Lists a take by what its file says of itself; of one that was closed also what is in it. A file that cannot be read says so when it is opened. */
export function listed(
  data: { db: Db; folder: string },
  head: TakeHead,
  durationMs: number,
  from?: string,
): void {
  putTake(data.db, head, durationMs);
  if (head.state === 'recording') return;
  try {
    lookInto(data, head.id, from);
  } catch {
    // its page says what is wrong with it
  }
}
