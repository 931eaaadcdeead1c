import { randomInt } from 'node:crypto';
import { crc32 } from '$core/field/checks';
import { compiled } from '$core/field/station/check';
import { ALWAYS, type StationModel } from '$core/field/station/model';
import { columnsOf, roomOf, type Programme, type Table } from '$core/field/station/programme';
import { RowGathering } from '$core/field/station/rows';
import type {
  CompileState,
  LiveValues,
  RowsPiece,
  StationState,
  TableState,
} from '$core/field/station/state';
import { Refused } from '../recorder';
import { Reading, type Source } from './reading';

export interface StationParts {
  model: StationModel;
  serial: string;
  /** True time, ms since 1970. */
  now: () => number;
  /** What hangs on each terminal. */
  sources: ReadonlyMap<string, Source>;
  /** Of the battery, V, and of the board, °C, at a true time. */
  supply: (trueMs: number) => number;
  board: (trueMs: number) => number;
  driftPpm?: number;
  /** How long it takes to compile a programme, ms. */
  compileMs?: number;
}
const FIRMWARE = '2.1';
/** Below it nothing works any more, V; a supply of 0 is the cable’s. */
const DEAD_V = 9;
/** So far back its clock may be set without times standing twice, ms. */
const CATCH_UP_MS = 600_000;
const refuse = (why: Refused['refusal']['why'], says: string) => new Refused({ why, says });

/** The memory of a table: it goes round, and a row knows whether it was written whole. */
class Ring {
  readonly times: Float64Array;
  readonly torn: Uint8Array;
  readonly values: Float32Array;
  end = 0;
  gathering: RowGathering;
  /** Of an event: whether it held at the last waking. */
  held = true;

  constructor(
    readonly table: Table,
    readonly room: number,
    readonly heads: { name: string; unit: string }[],
    beganMs: number,
  ) {
    this.times = new Float64Array(room);
    this.torn = new Uint8Array(room);
    this.values = new Float32Array(room * heads.length);
    this.gathering = new RowGathering(table.keeps, beganMs);
  }
  get width(): number {
    return this.heads.length;
  }
  get first(): number {
    return Math.max(0, this.end - this.room);
  }
  write(atMs: number, row: readonly number[] | null): void {
    const place = this.end++ % this.room;
    this.times[place] = atMs;
    this.torn[place] = row ? 0 : 1;
    for (let k = 0; k < this.width; k++) this.values[place * this.width + k] = row?.[k] ?? NaN;
  }
  /** Rows of an array with `each` numbers of a row, in two parts where the memory goes round in between. */
  slice<T extends Float64Array | Float32Array | Uint8Array>(of: T, from: number, count: number, each = 1): T {
    const place = from % this.room;
    const part = Math.min(count, this.room - place);
    if (part === count) return of.slice(place * each, (place + count) * each) as T;
    const out = new (of.constructor as new (n: number) => T)(count * each);
    out.set(of.subarray(place * each, (place + part) * each));
    out.set(of.subarray(0, (count - part) * each), part * each);
    return out;
  }
}

/** A station that works by itself: whatever the time is, it has woken by now as often as its programme says. A stand-in for the instrument, as honest as one: it
 *  measures what hangs on its terminals, compiles its programme itself, and its memory goes round. */
export class Station {
  private text = '';
  private programme: Programme | null = null;
  private rings: Ring[] = [];
  private run = 0;
  private sinceMs: number | null = null;
  private compile: CompileState = { state: 'none', remarks: [] };
  private compileAt = 0;
  private incoming: { check: number; total: number; pieces: Map<number, string> } | null = null;
  private clock: { setTrue: number; setSaid: number };
  private wokeMs = 0;
  private live: LiveValues = { atMs: null, values: [] };
  private output = false;
  private adjusted: Record<string, number> = {};
  private restarts = 0;
  private off: { fromMs: number; untilMs: number }[] = [];
  private readings: Reading[] = [];

  constructor(private readonly parts: StationParts) {
    const at = parts.now();
    this.clock = { setTrue: at, setSaid: at };
  }
  get serial(): string {
    return this.parts.serial;
  }
  get world(): number {
    return this.parts.now();
  }
  private get rate(): number {
    return 1 + (this.parts.driftPpm ?? 0) * 1e-6;
  }
  private said = (trueMs: number): number => this.clock.setSaid + (trueMs - this.clock.setTrue) * this.rate;
  private trueOf = (saidMs: number): number => this.clock.setTrue + (saidMs - this.clock.setSaid) / this.rate;

  /** Wakes as often as it should have by now. */
  private advance(): void {
    const now = this.parts.now();
    if (this.compile.state === 'compiling' && now >= this.compileAt) {
      this.wake(Math.min(now, this.compileAt));
      this.compileNow();
    }
    this.wake(now);
  }
  private wake(untilTrue: number): void {
    const { programme } = this;
    if (!programme) return;
    const step = programme.wakeS * 1000;
    const until = Math.floor(this.said(untilTrue) / step) * step;
    const values = new Map<string, number>();
    for (let at = this.wokeMs + step; at <= until; at += step) {
      this.wokeMs = at;
      const trueMs = this.trueOf(at);
      if (this.isOff(trueMs)) continue;
      this.measure(trueMs, values);
      for (const ring of this.rings) this.keep(ring, at, values);
      if (at + step > until) this.showLive(at, programme, values);
    }
  }
  private isOff(trueMs: number): boolean {
    if (this.off.some((o) => trueMs >= o.fromMs && trueMs < o.untilMs)) return true;
    const supply = this.parts.supply(trueMs);
    return supply > 0 && supply < DEAD_V;
  }
  private measure(trueMs: number, values: Map<string, number>): void {
    const board = this.parts.board(trueMs);
    values.set(ALWAYS[0].name, this.parts.supply(trueMs));
    values.set(ALWAYS[1].name, board);
    for (const reading of this.readings) {
      const { name, times, plus } = reading.measure;
      values.set(name, reading.at(trueMs, board) * times + (this.adjusted[name] ?? plus));
    }
  }
  private keep(ring: Ring, atMs: number, values: ReadonlyMap<string, number>): void {
    const { moment } = ring.table;
    ring.gathering.add(values, atMs);
    if (moment.kind === 'every') {
      if (atMs % (moment.seconds * 1000) === 0) ring.write(atMs, ring.gathering.close(atMs));
      return;
    }
    const value = values.get(moment.of) ?? NaN;
    // What cannot be told changes nothing.
    if (Number.isNaN(value)) return;
    const holds = moment.turns === 'rises above' ? value > moment.level : value < moment.level;
    if (holds && !ring.held) ring.write(atMs, ring.gathering.close(atMs));
    ring.held = holds;
  }
  private showLive(atMs: number, programme: Programme, values: ReadonlyMap<string, number>): void {
    const told = (v: number | undefined) => (v === undefined || Number.isNaN(v) ? null : v);
    this.live = {
      atMs,
      values: [
        ...ALWAYS.map(({ name, unit }) => ({ name, unit, way: 'own' as const, terminal: '', reading: told(values.get(name)), value: told(values.get(name)) })), // prettier-ignore
        ...programme.measures.map(({ name, unit, way, terminal }, k) => ({ name, unit, way, terminal, reading: told(this.readings[k].last), value: told(values.get(name)) })), // prettier-ignore
      ],
    };
  }

  private tableState({ table, room, heads, times, first, end }: Ring): TableState {
    const everyS = table.moment.kind === 'every' ? table.moment.seconds : 0;
    const now = this.said(this.parts.now());
    return {
      name: table.name,
      everyS,
      columns: heads,
      room,
      first,
      end,
      oldestMs: end > first ? times[first % room] : null,
      newestMs: end > first ? times[(end - 1) % room] : null,
      nextMs: everyS ? (Math.floor(now / (everyS * 1000)) + 1) * everyS * 1000 : null,
    };
  }
  state(): StationState {
    this.advance();
    const now = this.parts.now();
    return {
      model: this.parts.model.name,
      serial: this.parts.serial,
      firmware: FIRMWARE,
      saidMs: this.said(now),
      supplyV: this.parts.supply(now),
      boardC: this.parts.board(now),
      run: this.run,
      check: this.text ? crc32(new TextEncoder().encode(this.text)) : 0,
      sinceMs: this.sinceMs,
      compile: { ...this.compile },
      tables: this.rings.map((ring) => this.tableState(ring)),
      output: this.parts.model.terminals.K ? this.output : null,
      adjusted: { ...this.adjusted },
      restarts: this.restarts,
    };
  }
  runs(): { text: string; run: number } {
    this.advance();
    return { text: this.text, run: this.run };
  }
  values(): LiveValues {
    this.advance();
    return this.live;
  }

  /** A piece of a new programme. Another text, by its check, begins anew. */
  send({ check, total, from, piece }: { check: number; total: number; from: number; piece: string }): { has: number } {
    this.advance();
    if (this.incoming?.check !== check || this.incoming.total !== total) this.incoming = { check, total, pieces: new Map() };
    this.incoming.pieces.set(from, piece);
    return { has: this.incoming.pieces.size };
  } // prettier-ignore
  /** Begins to compile what was sent: it runs afterwards, or is refused and the former goes on. @param run of the programme that whoever sends believes to run
   *  @throws Refused where it did not come whole, or another programme runs meanwhile */
  startCompile({ check, run }: { check: number; run: number }): void {
    this.advance();
    const { incoming } = this;
    if (this.compile.state === 'compiling') throw refuse('busy', 'It compiles already.');
    if (run !== this.run) throw refuse('changed', 'Another programme was sent meanwhile.');
    const text = incoming ? [...incoming.pieces].sort(([a], [b]) => a - b).map(([, piece]) => piece).join('') : ''; // prettier-ignore
    if (incoming?.check !== check || crc32(new TextEncoder().encode(text)) !== check) throw refuse('unknown', 'The programme did not come whole.'); // prettier-ignore
    this.compile = { state: 'compiling', remarks: [] };
    this.compileAt = this.parts.now() + (this.parts.compileMs ?? 800);
  }
  private compileNow(): void {
    const text = [...this.incoming!.pieces].sort(([a], [b]) => a - b).map(([, piece]) => piece).join(''); // prettier-ignore
    this.incoming = null;
    const { programme, remarks } = compiled(text);
    if (programme && programme.model !== this.parts.model.name)
      this.compile = { state: 'refused', remarks: [{ bad: true, says: `It is for ${programme.model}; this is ${this.parts.model.name}.`, line: 1, at: { part: 'head' } }] }; // prettier-ignore
    else if (!programme) this.compile = { state: 'refused', remarks };
    else {
      this.begin(text, programme, randomInt(1, 0xffffffff));
      this.compile = { state: 'runs', remarks };
    }
  }
  /** Begins a programme: what its tables held is gone. @param run names it; a stand-in’s own stays the same from day to day */
  begin(text: string, programme: Programme, run: number): void {
    const now = this.said(this.parts.now());
    const step = programme.wakeS * 1000;
    this.text = text;
    this.programme = programme;
    this.run = run;
    this.sinceMs = now;
    this.wokeMs = Math.floor(now / step) * step;
    this.adjusted = {};
    this.live = { atMs: null, values: [] };
    this.readings = programme.measures.map((m) => new Reading(m, this.parts.sources.get(m.terminal), programme)); // prettier-ignore
    const rooms = roomOf(programme, this.parts.model);
    this.rings = programme.tables.map(
      (table, k) => new Ring(table, rooms[k], columnsOf(programme, table), now),
    );
  }

  /** Rows of a table, as many as are asked for and there. @throws Refused where that run is over, or they are overwritten */
  rows({ table, run, from, count }: { table: string; run: number; from: number; count: number }): RowsPiece {
    this.advance();
    if (run !== this.run) throw refuse('changed', 'Another programme runs since then.');
    const ring = this.rings.find((r) => r.table.name === table);
    if (!ring) throw refuse('unknown', `There is no table “${table}”.`);
    if (from < ring.first) throw refuse('gone', `Rows before ${ring.first} are overwritten.`);
    const n = Math.max(0, Math.min(count, ring.end - from));
    return { run, from, width: ring.width, times: ring.slice(ring.times, from, n), torn: ring.slice(ring.torn, from, n), values: ring.slice(ring.values, from, n, ring.width) }; // prettier-ignore
  }
  /** Columns of a table. */
  width = (table: string): number => this.rings.find((r) => r.table.name === table)?.width ?? 0;

  /** Sets its clock. Set back a little it sleeps until it has caught up with what it said before; further back, its rows have times that have been before. */
  setClock(utcMs: number): void {
    this.advance();
    this.clock = { setTrue: this.parts.now(), setSaid: utcMs };
    if (!this.programme || (utcMs <= this.wokeMs && this.wokeMs - utcMs <= CATCH_UP_MS)) return;
    const step = this.programme.wakeS * 1000;
    const before = this.wokeMs;
    this.wokeMs = Math.floor(utcMs / step) * step;
    // Set on a little, it goes on with what it gathers.
    if (utcMs > before && utcMs - before < CATCH_UP_MS) return;
    for (const ring of this.rings) ring.gathering = new RowGathering(ring.table.keeps, utcMs);
  }
  /** Sets its output, or what is added to a value. @throws Refused for what it has not */
  set({ what, name, value }: { what: 'output' | 'plus'; name: string; value: number }): void {
    this.advance();
    if (what === 'output') {
      if (!this.parts.model.terminals.K) throw refuse('does not fit', `${this.parts.model.name} has no output.`); // prettier-ignore
      this.output = value !== 0;
    } else if (!this.programme?.measures.some((m) => m.name === name))
      throw refuse('unknown', `It measures no “${name}”.`); // prettier-ignore
    else this.adjusted[name] = value;
  }

  /** Its power fails for so long: what was being gathered is lost, and the row that was being written is torn. What was sent and not compiled is gone. */
  losePower(seconds: number): void {
    this.advance();
    const now = this.parts.now();
    this.off.push({ fromMs: now, untilMs: now + seconds * 1000 });
    this.restarts++;
    this.incoming = null;
    if (this.compile.state === 'compiling') this.compile = { state: 'interrupted', remarks: [] };
    for (const ring of this.rings) {
      if (ring.end) ring.write(this.wokeMs, null);
      ring.gathering = new RowGathering(ring.table.keeps, this.said(now));
    }
  }
  get isWithoutPower(): boolean {
    return this.isOff(this.parts.now());
  }
}
