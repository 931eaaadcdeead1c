import { concernsOf, losesAt, type Concern, type Known } from '$core/field/station/health';
import { wrapsAt, type StationState } from '$core/field/station/state';
import type { FetchView, LinkView, SendingView, StationLine, StationView, TableView } from '$contract/station'; // prettier-ignore
import { listProgrammes, type ProgrammeRow, type StationRow } from '$store/stations';
import type { App } from '../../app';
import { takeRows } from '../../takes';

/** What is done with a station now. */
interface StationLive {
  contact: { view: LinkView };
  fetching: FetchView | null;
  sending: SendingView | null;
  plays: boolean;
}

/** Time where a station is, ms: a stand-in’s may run faster than ours. */
export const worldOf = ({ worldMs }: Pick<StationState, 'worldMs'>): number => worldMs ?? Date.now();

const knownOf = ({ state, live, contactAt, aheadS, tables }: StationRow): Known => ({
  state,
  live,
  contactAt,
  aheadS,
  fetched: Object.fromEntries(Object.entries(tables).map(([name, t]) => [name, t.fetched])),
});
export const concernsNow = (row: StationRow): Concern[] => concernsOf(knownOf(row), row.wish, Date.now());

const versionOf = (programmes: readonly ProgrammeRow[], { runs }: StationRow): number | null =>
  runs ? (programmes.find((p) => p.text === runs)?.number ?? null) : null;

function tablesOf(row: StationRow): TableView[] {
  const { state, contactAt, tables } = row;
  if (!state || contactAt === null) return [];
  // The station’s clock, told in ours: to the second, since a row of midnight is of midnight.
  const ours = (ms: number | null) =>
    ms === null ? null : Math.round((contactAt + (ms - state.saidMs)) / 1000) * 1000;
  return state.tables.map((t) => ({
    name: t.name,
    everyS: t.everyS,
    columns: t.columns,
    room: t.room,
    first: t.first,
    end: t.end,
    fetched: Math.min(tables[t.name]?.fetched ?? 0, t.end),
    oldestMs: ours(t.oldestMs),
    newestMs: ours(t.newestMs),
    nextMs: ours(t.nextMs),
    wrapsMs: ours(wrapsAt(t)),
    losesMs: losesAt(knownOf(row), t.name),
    takeId: tables[t.name]?.takeId ?? null,
  }));
}

/** A station in the list. */
export function lineOf(app: App, row: StationRow, live: StationLive): StationLine {
  const losing = tablesOf(row).flatMap((t) => (t.losesMs === null || t.end === 0 ? [] : [t.losesMs]));
  return {
    id: row.id,
    name: row.wish.name,
    place: row.wish.place,
    model: row.state?.model ?? null,
    serial: row.serial,
    contactMs: row.contactAt,
    supplyV: row.state?.supplyV ?? null,
    aheadS: row.aheadS,
    version: versionOf(listProgrammes(app.db, row.id), row),
    losesMs: losing.length ? Math.min(...losing) : null,
    concerns: concernsNow(row),
    link: live.contact.view,
    fetch: live.fetching,
  };
}
/** A station with all that is known of it. */
export function viewOf(app: App, row: StationRow, live: StationLive): StationView {
  const numbers = new Map(row.earlier.length ? takeRows(app).map((t) => [t.id, t.number]) : []);
  return {
    ...lineOf(app, row, live),
    wish: row.wish,
    state: row.state,
    live: row.live,
    tables: tablesOf(row),
    earlier: row.earlier.flatMap(({ table, takeId }) => (numbers.has(takeId) ? [{ table, number: numbers.get(takeId)! }] : [])), // prettier-ignore
    runs: row.runs,
    draft: row.draft,
    versions: listProgrammes(app.db, row.id).map(({ number, at, by, text, ranAt }) => ({ number, atMs: at, by, text, ranMs: ranAt })), // prettier-ignore
    sending: live.sending,
    plays: live.plays,
  };
}
