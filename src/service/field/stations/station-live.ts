import { setTimeout as wait } from 'node:timers/promises';
import { FarrierError, asFarrierError, conflict, notFound } from '$core/errors';
import { crc32 } from '$core/field/checks';
import { compiled } from '$core/field/station/check';
import type { RowsPiece, StationState } from '$core/field/station/state';
import type { FetchView, SendingView } from '$contract/station';
import { reachedIn } from '$store/take/grow';
import { findStation, keepProgramme, listStations, programmeRan, putStation, versionOf, type StationRow } from '$store/stations'; // prettier-ignore
import { log, takePath, type App } from '../../app';
import { InstrumentRefusal, type FieldLink } from '../link';
import { Contact } from './contact';
import { keepRows } from './grown';
import { concernsNow, worldOf } from './reading';
import { fetchRows, joinedRows } from './rows';
import { helloSaid, liveSaid, programmeSaid, stateSaid } from './said';

/** Letters of a programme in one message, and how long its compiler is waited for, ms. */
const PIECE = 1000;
const COMPILE_MS = 30_000;
const LOOK_MS = 200;
/** Rows that are held before they are written into their take. */
const HELD_ROWS = 200_000;

/** One station and what is done with it. Everything that asks it goes over its one line, in turn; other stations are not held up by it. */
export class StationLive {
  readonly contact: Contact;
  fetching: FetchView | null = null;
  sending: SendingView | null = null;
  plays = false;
  private stop: AbortController | null = null;
  /** Concerns that were told as alarms. */
  private told = new Map<string, string>();

  constructor(
    private readonly app: App,
    readonly id: string,
  ) {
    this.contact = new Contact(
      () => this.row.wish,
      (link) => this.met(link),
    );
  }
  get row(): StationRow {
    const row = findStation(this.app.db, this.id);
    if (!row) throw notFound('station', this.id);
    return row;
  }
  private change(part: Partial<StationRow>): void {
    putStation(this.app.db, { ...this.row, ...part });
  }
  private says(text: string, by: string): void {
    log(this.app, 'field', `${this.row.wish.name}: ${text}`, { by });
  }

  /** Whether the one that answers is the one that is meant. @throws `conflict` */
  private async met(link: FieldLink): Promise<void> {
    const { serial, model } = helloSaid(await link.ask('hello'));
    const row = this.row;
    if (row.serial !== null && row.serial !== serial) throw conflict(row.wish.name, `${serial} answers there, not ${row.serial}.`, 'Look at its address; for another instrument add another station.'); // prettier-ignore
    const other = listStations(this.app.db).find((s) => s.serial === serial && s.id !== this.id);
    if (other) throw conflict(row.wish.name, `${serial} (${model}) is ${other.wish.name} already.`, 'Give the address of another one.'); // prettier-ignore
    if (row.serial === null) this.change({ serial });
    this.plays = await link.ask('play', { do: 'list' }).then(
      () => true,
      (error: unknown) => {
        if (error instanceof InstrumentRefusal) return false;
        throw error;
      },
    );
  }

  /** Asks how it is. A programme that somebody else sent is taken note of: its tables are others. @returns its state */
  private async ask(link: FieldLink): Promise<StationState> {
    const state = stateSaid(await link.ask('state'));
    const row = this.row;
    const part: Partial<StationRow> = { state, contactAt: Date.now(), aheadS: (state.saidMs - worldOf(state)) / 1000 }; // prettier-ignore
    if (state.run !== row.run) {
      const { text } = programmeSaid(await link.ask('programme'));
      const earlier = Object.entries(row.tables).flatMap(([table, { takeId }]) => takeId ? [{ table, takeId, run: row.run }] : []); // prettier-ignore
      Object.assign(part, { run: state.run, runs: text, tables: {}, earlier: [...earlier, ...row.earlier].slice(0, 200) }); // prettier-ignore
      if (text) {
        const { number, ranAt } = versionOf(this.app.db, this.id, text, 'the station', Date.now());
        if (ranAt === null) programmeRan(this.app.db, this.id, number, state.sinceMs ?? Date.now());
        if (row.runs && row.runs !== text && this.sending?.step !== 'compile') this.says(`another programme runs, version ${number}.`, 'the station'); // prettier-ignore
      }
      if (!row.draft) part.draft = text;
    }
    this.change(part);
    this.raise();
    const { setsClock } = row.wish;
    if (setsClock !== null && Math.abs(part.aheadS!) > setsClock) await this.clockNow(link, state, 'Farrier');
    return state;
  }
  private async clockNow(link: FieldLink, before: StationState, by: string): Promise<void> {
    const ahead = (before.saidMs - worldOf(before)) / 1000;
    await link.ask('clock', { utcMs: worldOf(before) });
    const state = stateSaid(await link.ask('state'));
    this.change({ state, contactAt: Date.now(), aheadS: (state.saidMs - worldOf(state)) / 1000 });
    this.says(
      `its clock was set; it was ${Math.abs(ahead).toFixed(1)} s ${ahead > 0 ? 'ahead' : 'late'}.`,
      by,
    );
    this.raise();
  }
  private async askLive(link: FieldLink): Promise<void> {
    this.change({ live: liveSaid(await link.ask('live')) });
    this.raise();
  }

  /** What wants attention is in the list of alarms for as long as it holds. */
  raise(): void {
    const row = findStation(this.app.db, this.id);
    if (!row) return;
    const now = new Map(concernsNow(row).map((c) => [c.key, c]));
    for (const [key, { level, says }] of now) {
      // One that is open goes on; another job that is worked on begins with what holds.
      this.app.alarms.comes(`${this.id} ${key}`, level, `${row.wish.name}: ${says}`, Date.now());
      if (this.told.get(key) === level) continue;
      this.told.set(key, level);
      this.says(`${says}.`, 'the station');
    }
    for (const key of this.told.keys())
      if (!now.has(key)) {
        this.told.delete(key);
        this.app.alarms.goes(`${this.id} ${key}`, Date.now());
      }
  }
  /** Its alarms are over: it is let go. */
  end(): void {
    this.contact.end();
    for (const key of this.told.keys()) this.app.alarms.goes(`${this.id} ${key}`, Date.now());
  }

  /** Asks how it is and for its values, unless that is being done. */
  look(): void {
    this.contact.needed();
    if (this.contact.busy) return;
    void this.contact
      .work(async (link) => {
        await this.ask(link);
        await this.askLive(link);
      })
      .catch(() => undefined); // the link says why
  }

  /** Fetches what is new. @param tables all where it is left out @throws `unavailable`, `cancelled`; what came before is kept */
  async fetch(tables: readonly string[] | undefined, by: string): Promise<number> {
    return this.contact.work(async (link) => this.fetchOver(link, tables, by)).catch(told);
  }
  stopFetching(): void {
    this.stop?.abort();
  }
  private async fetchOver(
    link: FieldLink,
    tables: readonly string[] | undefined,
    by: string,
  ): Promise<number> {
    const state = await this.ask(link);
    this.stop = new AbortController();
    let rows = 0;
    const of: string[] = [];
    try {
      for (const table of state.tables.filter((t) => !tables || tables.includes(t.name))) {
        const came = await this.fetchTable(link, state, table, this.stop.signal);
        if (came) of.push(table.name);
        rows += came;
        if (this.stop.signal.aborted) break;
      }
    } finally {
      this.fetching = null;
      this.stop = null;
      if (rows) this.says(`${rows} rows of ${of.join(', ')} fetched.`, by);
      this.raise();
    }
    await this.askLive(link);
    return rows;
  }
  private async fetchTable(link: FieldLink, state: StationState, table: StationState['tables'][number], signal: AbortSignal): Promise<number> {
    const { run } = state;
    const kept = this.row.tables[table.name] ?? { fetched: 0, takeId: null };
    // What a take has is not fetched again, even where Farrier ended before it wrote that down.
    const has = Math.max(kept.fetched, kept.takeId ? (reachedIn(takePath(this.app, kept.takeId)) ?? 0) : 0);
    const from = Math.max(has, table.first);
    if (from >= table.end) return 0;
    const total = table.end - from;
    const sinceMs = Date.now();
    let came = 0;
    let takeId = kept.takeId;
    let held: RowsPiece[] = [];
    let heldRows = 0;
    const keep = async () => {
      if (held.length === 0) return;
      const rows = joinedRows(held);
      const { number } = versionOf(this.app.db, this.id, this.row.runs, 'the station', sinceMs);
      takeId = await keepRows(this.app, { station: this.row, table, version: number }, takeId, rows, has < table.first && rows.from === from);
      this.change({ tables: { ...this.row.tables, [table.name]: { fetched: rows.from + rows.times.length, takeId } } });
      [held, heldRows] = [[], 0];
    };
    this.fetching = { table: table.name, rows: 0, of: total, sinceMs };
    try {
      await fetchRows(link, table, run, from, (piece) => {
        held.push(piece);
        came += piece.times.length;
        heldRows += piece.times.length;
        this.fetching = { table: table.name, rows: came, of: total, sinceMs };
        if (heldRows >= HELD_ROWS) return keep();
      }, signal);
    } finally {
      await keep();
    }
    return came;
  } // prettier-ignore

  /** Sends a programme: what the station holds is fetched first, unless it is said why not. @throws `bad_input`-like `conflict` with the first error, `unavailable` */
  async send(text: string, withoutFetching: string | undefined, by: string): Promise<void> {
    const { remarks } = compiled(text);
    const fault = remarks.find((r) => r.bad);
    if (fault) throw conflict('programme', `${fault.line ? `Line ${fault.line}: ` : ''}${fault.says}`, 'Change it, then send it.'); // prettier-ignore
    if (this.sending && this.sending.step !== 'done' && this.sending.failed === null) throw conflict(this.row.wish.name, 'A programme is being sent.', 'Wait until it has come out.'); // prettier-ignore
    const { number } = keepProgramme(this.app.db, this.id, text, by, Date.now());
    const sending: SendingView = (this.sending = { version: number, step: 'fetch', failed: null, said: {}, remarks: [] }); // prettier-ignore
    try {
      if (withoutFetching) {
        sending.said.fetch = `left out: ${withoutFetching}`;
        this.says(`version ${number} is sent without fetching first: ${withoutFetching}.`, by);
      } else {
        const rows = await this.fetch(undefined, by);
        sending.said.fetch = `${rows} new rows, ${new Date().toISOString().slice(11, 16)} UTC`;
      }
      sending.step = 'send';
      const run = await this.contact.work(async (link) => this.sendOver(link, text));
      sending.step = 'compile';
      const state = await this.compiledBy();
      sending.remarks = state.compile.remarks;
      const refused = state.compile.remarks.find((r) => r.bad);
      if (state.compile.state === 'interrupted') throw conflict(this.row.wish.name, 'It lost its power while it compiled; the former programme goes on.', 'Send it again.'); // prettier-ignore
      if (state.compile.state !== 'runs' || state.run === run) throw conflict(this.row.wish.name, `The station refuses it: ${refused?.says ?? 'it does not say why'}`, 'Change the programme, then send it again.'); // prettier-ignore
      programmeRan(this.app.db, this.id, number, Date.now());
      sending.said.compile = `version ${number} runs`;
      this.says(`version ${number} runs.`, by);
      sending.step = 'live';
      await this.contact.work(async (link) => this.askLive(link));
      sending.step = 'done';
    } catch (error) {
      const { text: why } = asFarrierError(error, this.row.wish.name);
      sending.failed = [why.what, why.why, why.next].filter(Boolean).join(' ');
      this.says(`version ${number} did not come to run: ${sending.failed}`, by);
      told(error);
    }
  }
  private async sendOver(link: FieldLink, text: string): Promise<number> {
    const check = crc32(new TextEncoder().encode(text));
    const { run } = this.row;
    for (let from = 0; from < text.length; from += PIECE)
      await link.ask('send', { check, total: text.length, from, piece: text.slice(from, from + PIECE) });
    await link.ask('compile', { check, run });
    this.sending!.said.send = `${text.length} letters`;
    return run;
  }
  /** Waits for what the station’s compiler says; a line that is cut meanwhile is opened again. @throws `unavailable` */
  private async compiledBy(): Promise<StationState> {
    const until = Date.now() + COMPILE_MS;
    for (;;) {
      try {
        const state = await this.contact.work((link) => this.ask(link));
        if (state.compile.state !== 'compiling') return state;
      } catch (error) {
        if (!(error instanceof FarrierError) || error.code !== 'unavailable' || Date.now() > until)
          throw error;
      }
      if (Date.now() > until) throw new FarrierError('unavailable', { what: 'The station does not say how it came out.', next: 'Reach it again: it says what it runs.' }); // prettier-ignore
      await wait(LOOK_MS);
    }
  }

  setClock(by: string): Promise<void> {
    return this.contact.work(async (link) => this.clockNow(link, await this.ask(link), by)).catch(told);
  }
  set(what: { what: 'output' | 'plus'; name: string; value: number }, by: string): Promise<void> {
    return this.contact
      .work(async (link) => {
        await link.ask('set', what);
        await this.ask(link);
        this.says(what.what === 'output' ? `its output was switched ${what.value ? 'on' : 'off'}.` : `${what.name} plus ${what.value} from now on.`, by); // prettier-ignore
      })
      .catch(told);
  }
  play(act: { do: string; seconds?: number; times?: number }): Promise<void> {
    return this.contact.work(async (link) => void (await link.ask('play', act))).catch(told);
  }
}

/** An instrument’s refusal as a fault with a way on. */
function told(error: unknown): never {
  if (error instanceof InstrumentRefusal) throw conflict('station', error.refusal.says, error.refusal.why === 'changed' ? 'Look at what runs on it now, then do it again.' : 'Look at it, then try again.'); // prettier-ignore
  throw error;
}
