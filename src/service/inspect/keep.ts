import { rmSync, statSync } from 'node:fs';
import { badInput, conflict, FarrierError } from '$core/errors';
import { nameText } from '$contract/name-text';
import type { Verdict } from '$contract/take';
import { listStudies, listUnits } from '$store/entities';
import { addToTake } from '$store/take/schema';
import { changeTakes, getTake, listBin, type TakeRow } from '$store/takes';
import { jobOf, log, takePath, type App } from '../app';
import { check } from '../check';
import { bodyOf } from '../study/inputs';
import { lookInto } from './look-into';

/** @throws `not_found`, `conflict` while it is recorded */
function closedTake(app: App, id: string, what: string): TakeRow {
  const row = getTake(app.db, id);
  if (row.state === 'recording')
    throw conflict('take', `${row.name} is still being recorded.`, `${what} once it has ended.`);
  return row;
}
const counted = (n: number) => (n === 1 ? '1 take' : `${n} takes`);

/** Says what a person thinks of some takes. It stands in each take's file beside earlier verdicts; the last one counts.
 *  @throws `bad_input` without a reason for a verdict that is not good, `unavailable` when a file cannot be written */
export function judgeTakes(app: App, ids: string[], verdict: Verdict, reason: string, by: string): void {
  const why = reason.trim();
  if (verdict !== 'good' && why.length < 3)
    throw badInput('reason', reason, 'Say what is wrong with it: who reads it later was not there.');
  for (const id of ids) {
    const row = closedTake(app, id, 'Judge it');
    addToTake(takePath(app, id), 'The verdict cannot be kept in the take.', (db) =>
      db
        .prepare('INSERT INTO judgement (at, by, verdict, reason) VALUES (?, ?, ?, ?)')
        .run(Date.now(), by, verdict, why.slice(0, 400)),
    );
    changed(app, id);
    log(app, 'take', `${row.name} is ${verdict}${why ? `: ${why}` : ''}.`, { takeId: id, by });
  }
}

/** The take's file was added to: whoever reads it from now on sees it. */
export function changed(app: App, id: string): void {
  app.takes.forget(takePath(app, id));
  lookInto(app, id);
}

/** Puts tags on takes and takes others off. @throws `bad_input`, `not_found` */
export function tagTakes(app: App, ids: string[], put: string[], off: string[], by: string): void {
  const wanted = put.map((tag) => check(nameText(40), tag));
  for (const id of ids) {
    const row = getTake(app.db, id);
    const tags = [...new Set([...row.tags.filter((t) => !off.includes(t)), ...wanted])].slice(0, 30);
    if (JSON.stringify(tags) !== JSON.stringify(row.tags)) changeTakes(app.db, [id], { tags });
  }
  const said = [
    put.length ? `tagged ${put.join(', ')}` : '',
    off.length ? `no longer tagged ${off.join(', ')}` : '',
  ];
  log(app, 'take', `${counted(ids.length)}: ${said.filter(Boolean).join('; ')}.`, {
    takeId: ids.length === 1 ? ids[0] : null,
    by,
  });
}

/** Puts takes into the bin: they are on no list any more, their files stay until it is emptied. @throws `not_found`, `conflict` while one is
 *  recorded or played by a unit */
export function binTakes(app: App, ids: string[], by: string): void {
  const rows = ids.map((id) => closedTake(app, id, 'Put it into the bin'));
  for (const row of rows) {
    const unit = listUnits(app.db).find((u) => u.config.settings.source === `take:${row.id}`);
    if (unit)
      throw conflict(
        'take',
        `${row.name} is played by the unit ${unit.name}.`,
        'Let the unit play another one first.',
      );
  }
  changeTakes(app.db, ids, { binnedAt: Date.now(), binnedBy: by });
  log(app, 'take', `${namesOf(rows)} put into the bin.`, { takeId: ids.length === 1 ? ids[0] : null, by });
}

/** Takes takes out of the bin again. @throws `not_found`, `conflict` for one whose file is gone */
export function restoreTakes(app: App, ids: string[], by: string): void {
  const rows = ids.map((id) => getTake(app.db, id));
  const gone = rows.find((r) => r.goneAt !== null);
  if (gone)
    throw conflict('take', `${gone.name} was deleted when the bin was emptied.`, 'Bring it in from a copy.');
  changeTakes(app.db, ids, { binnedAt: null, binnedBy: null });
  log(app, 'take', `${namesOf(rows)} taken out of the bin.`, {
    takeId: ids.length === 1 ? ids[0] : null,
    by,
  });
}

const namesOf = (rows: TakeRow[]) =>
  rows.length <= 3 ? rows.map((r) => r.name).join(', ') : counted(rows.length);

/** Deletes what lies in the bin. Refused whole while something reads one of the takes; afterwards nothing brings them back.
 *  @returns how much disk became free, bytes @throws `conflict` naming what reads which take */
export function emptyBin(app: App, by: string): { takes: number; bytes: number } {
  const rows = listBin(app.db, jobOf(app).id);
  const ids = new Set(rows.map((r) => r.id));
  for (const study of listStudies(app.db, jobOf(app).id)) {
    const { name, takes } = bodyOf(study);
    const used = takes.find((id) => ids.has(id));
    if (used && app.studies.has(study.id))
      throw conflict(
        'bin',
        `The study “${name}” is computing on ${getTake(app.db, used).name}.`,
        'Wait for it or cancel it.',
      );
  }
  const busy = rows.find((r) => app.takes.onLease(takePath(app, r.id)));
  if (busy) throw conflict('bin', `${busy.name} is being read.`, 'Wait until its export or report is done.');
  let bytes = 0;
  for (const row of rows) {
    const path = takePath(app, row.id);
    app.takes.forget(path);
    try {
      bytes += statSync(path).size;
      for (const end of ['', '-wal', '-shm']) rmSync(path + end, { force: true });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT')
        throw new FarrierError('unavailable', {
          what: `${row.name} cannot be deleted.`,
          where: path,
          why: (error as Error).message,
          next: 'Check the rights of the folder; the others before it are deleted.',
        });
    }
    changeTakes(app.db, [row.id], { goneAt: Date.now() });
    log(app, 'take', `${row.name} deleted for good with the bin.`, { takeId: row.id, by });
  }
  return { takes: rows.length, bytes };
}

/** Writes a mark or note at a moment of a finished take, or over a span; or another one in the place of an earlier one, which is kept.
 *  @param says empty takes the earlier one back @throws `bad_input` outside the take, `conflict` while it is recorded */
export function writeNote(
  app: App,
  id: string,
  note: { atS: number; untilS: number | null; says: string; replaces: number | null },
  by: string,
): void {
  const row = closedTake(app, id, 'Write it');
  const seconds = row.durationMs / 1000;
  const says = note.says.trim();
  if (!says && note.replaces === null) throw badInput('note', 'empty', 'Write something.');
  if (note.atS < 0 || note.atS > seconds)
    throw badInput('moment', `${note.atS} s`, `Choose one from 0 to ${seconds} s.`);
  if (note.untilS !== null && !(note.untilS > note.atS && note.untilS <= seconds))
    throw badInput('end', `${note.untilS} s`, `Choose one after the beginning, up to ${seconds} s.`);
  addToTake(takePath(app, id), 'The note cannot be kept in the take.', (db) => {
    if (note.replaces !== null) {
      const former = db.prepare('SELECT kind, written FROM note WHERE id = ?').get(note.replaces) as
        { kind: string; written: number | null } | undefined;
      if (!former) throw badInput('note', note.replaces, 'It is not in this take.');
      if (former.kind !== 'mark' && former.kind !== 'note')
        throw conflict('note', 'What was written by itself stays as it is.', 'Write a note beside it.');
      if (db.prepare('SELECT 1 FROM note WHERE replaces = ?').get(note.replaces))
        throw conflict(
          'note',
          'Somebody has changed it meanwhile.',
          'Look at it as it is now, then change that.',
        );
    }
    const ns = (s: number) => Math.round(s * 1e9);
    db.prepare(
      'INSERT INTO note (offset_ns, until_ns, kind, says, by, written, replaces) VALUES (?, ?, ?, ?, ?, ?, ?)',
    ).run(
      ns(note.atS),
      note.untilS === null ? null : ns(note.untilS),
      'note',
      says.slice(0, 400),
      by,
      Date.now(),
      note.replaces,
    );
  });
  changed(app, id);
  log(
    app,
    'take',
    `${row.name}: ${says ? `“${says}” written` : 'a note taken back'} at ${note.atS.toFixed(1)} s.`,
    { takeId: id, by },
  );
}

/** Writes several spans onto a finished take at once; one that stands there already is not written twice.
 *  @returns how many were new @throws `conflict` while it is recorded, `unavailable` when its file cannot be written */
export function writeSpans(
  app: App,
  id: string,
  spans: readonly { fromS: number; toS: number; says: string }[],
  by: string,
): number {
  const row = closedTake(app, id, 'Write on it');
  const ns = (s: number) => Math.round(s * 1e9);
  const written = addToTake(takePath(app, id), 'The marks cannot be kept in the take.', (db) => {
    const known = db.prepare('SELECT 1 FROM note WHERE offset_ns = ? AND until_ns = ? AND says = ?');
    const write = db.prepare(
      "INSERT INTO note (offset_ns, until_ns, kind, says, by, written, replaces) VALUES (?, ?, 'note', ?, ?, ?, NULL)",
    );
    const fresh = spans.filter(
      (s) => s.toS > s.fromS && !known.get(ns(s.fromS), ns(s.toS), s.says.slice(0, 400)),
    );
    for (const s of fresh) write.run(ns(s.fromS), ns(s.toS), s.says.slice(0, 400), by, Date.now());
    return fresh.length;
  });
  if (written) {
    changed(app, id);
    log(app, 'take', `${row.name}: ${written} spans written, such as “${spans[0].says}”.`, {
      takeId: id,
      by,
    });
  }
  return written;
}
