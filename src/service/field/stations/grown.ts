import { randomUUID } from 'node:crypto';
import { FarrierError } from '$core/errors';
import { onGrid } from '$core/field/station/grid';
import { programmeOf } from '$core/field/station/text';
import { someRows, type RowsPiece, type TableState } from '$core/field/station/state';
import { CORE_VERSION } from '$core/version';
import { EMPTY_PLAN } from '$contract/plan';
import type { TakeHead } from '$contract/take';
import type { StationRow } from '$store/stations';
import { getTake, nextTakeNumber } from '$store/takes';
import { jobOf, log, takePath, type App } from '../../app';
import { listed } from '../../inspect/look-into';
import { canRead, openTake } from '../../takes';
import { rowsSay, type GrowTask } from './grow-task';

const NS_A_MS = 1e6;
const BY = 'the station';

/** What rows are of. */
interface Of {
  station: StationRow;
  table: TableState;
  version: number | null;
}
/** s from one index of a table’s take to the next: that of its rows, or of the wakings for one that waits for events. */
const stepOf = ({ station, table }: Of): number => table.everyS || programmeOf(station.runs).programme.wakeS;

/** Puts fetched rows into the take of their table, which grows, or begins one. Where the clock was turned, somebody changed the take or threw it away, or another job is worked on, a further one begins.
 *  @param lost rows before these were overwritten before they were fetched @returns the take that rows go on in @throws `unavailable` where the disk does not take them */
export async function keepRows(app: App, of: Of, takeId: string | null, rows: RowsPiece, lost: boolean): Promise<string | null> {
  const { name } = of.station.wish;
  const stepS = stepOf(of);
  let piece = rows;
  let own = takeId && growsOn(app, takeId) ? takeId : null;
  for (;;) {
    const reader = own ? openTake(app, own) : null;
    // A take begins with the first row that is one.
    const begin = piece.torn.indexOf(0);
    if (!reader && begin < 0) return own;
    const startMs = reader ? Number(BigInt(reader.head.startNs) / 1_000_000n) : piece.times[begin];
    const placed = onGrid(piece, startMs, stepS * 1000, reader?.signals[0].length ?? 0, lost && piece === rows);
    const to = piece.from + (placed.turnedAt ?? piece.times.length);
    if (!own || placed.runs.length || placed.gaps.length) {
      const id = own ?? randomUUID();
      const head = reader?.head ?? headOf(app, of, id, startMs, to);
      const path = takePath(app, id);
      const channels = of.table.columns.map((c) => ({ id: `${of.station.id} ${c.name}`, name: c.name, unit: c.unit }));
      const task: GrowTask = { path, placed, stepS, to, begins: own ? null : { head, channels } };
      const done = await app.workers.do('growRows', task);
      if ('fault' in done) throw new FarrierError('unavailable', done.fault);
      if ('changed' in done) {
        log(app, 'trouble', `${head.name}: ${done.changed} Rows from now on go into another take.`, { takeId: id, by: BY });
        own = null;
        continue;
      }
      app.takes.forget(path);
      listed(app, { ...head, state: 'complete', lengthNs: done.lengthNs }, done.lengthNs / NS_A_MS);
      // Of the kind that lets pages read their lists anew.
      log(app, 'take', `${head.name} ${own ? 'has grown' : 'is a take'}, rows up to number ${to - 1}; sealed, SHA-256 ${done.hash}.`, { takeId: id, by: BY });
      own = id;
    }
    if (placed.turnedAt === null) return own;
    log(app, 'field', `${name}: its clock was turned; ${of.table.name} goes on in a take of its own.`, { by: BY });
    piece = someRows(piece, placed.turnedAt);
    own = null;
  }
} // prettier-ignore

/** Whether rows go on in a take: not in one that was thrown away, nor in one of another job. */
function growsOn(app: App, id: string): boolean {
  if (!canRead(app, id)) return false;
  const { binnedAt, goneAt, jobId } = getTake(app.db, id);
  return binnedAt === null && goneAt === null && jobId === jobOf(app).id;
}

function headOf(
  app: App,
  { station, table, version }: Of,
  id: string,
  startMs: number,
  to: number,
): TakeHead {
  const job = jobOf(app);
  const { name, place } = station.wish;
  return {
    id,
    jobId: job.id,
    job: job.name,
    number: nextTakeNumber(app.db, job.id) + (app.live.status.take ? 1 : 0),
    name: `${name}, ${table.name}`,
    state: 'recording',
    startNs: String(BigInt(Math.round(startMs)) * BigInt(NS_A_MS)),
    lengthNs: null,
    facts: {
      Station: name,
      ...(place && { Place: place }),
      Serial: station.serial ?? '',
      Table: table.name,
      ...(version !== null && { Programme: `version ${version}` }),
      ...rowsSay(to),
    },
    plan: EMPTY_PLAN,
    planText: `Kept by the station ${table.everyS ? `every ${table.everyS} s` : 'at events'}, at times of its own clock.`, // prettier-ignore
    planName: '',
    folder: 'Field',
    part: null,
    from: station.serial ?? name,
    coreVersion: CORE_VERSION,
  };
}
