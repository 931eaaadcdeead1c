import { randomUUID } from 'node:crypto';
import { createServer, type Server, type Socket } from 'node:net';
import { conflict } from '$core/errors';
import { NEW_STATION, byAttention, type StationView, type StationWish, type StationsView } from '$contract/station'; // prettier-ignore
import { dropStation, listStations, putStation, type StationRow } from '$store/stations';
import { log, type App } from '../../app';
import { FieldLink } from '../link';
import type { StationPort } from './port';
import { lineOf, viewOf } from './reading';
import { helloSaid } from './said';
import { StationLive } from './station-live';

/** How often schedules and lines are looked at, ms. */
const BEAT_MS = 1000;
const MINUTE = 60_000;
const BY = 'its schedule';
/** Silence and memories are looked at this often, ms: nothing but time moves them. */
const HEALTH_MS = 10_000;

/** Looks after stations: fetches them by their schedules and when they call in, and does what is asked of them. Each has its own line and waits for no other. */
export class StationDesk implements StationPort {
  private readonly lives = new Map<string, StationLive>();
  private timer: ReturnType<typeof setTimeout> | null = null;
  private server: Server | null = null;
  private listens: number | null = null;
  private healthAt = 0;
  private ended = false;

  constructor(private readonly app: App) {
    for (const one of (process.env.FARRIER_STATION ?? '').split(';').filter(Boolean)) this.expect(one);
  }
  /** One that is there from the start, as “name, place=address”: where it listens elsewhere today it is still the same station. */
  private expect(said: string): void {
    const [who, address] = said.split('=');
    const [name, ...place] = who.split(', ');
    const known = listStations(this.app.db).find((s) => s.wish.name === name);
    if (known) putStation(this.app.db, { ...known, wish: { ...known.wish, address } });
    else this.add({ ...NEW_STATION, name, place: place.join(', '), address, pauseS: 2 }, 'Farrier');
  }

  begin(): void {
    const port = process.env.FARRIER_CALL_IN;
    if (port) this.listen(Number(port));
    const again = () => {
      this.beat();
      if (!this.ended) this.timer = setTimeout(again, BEAT_MS).unref();
    };
    this.timer = setTimeout(again, 0).unref();
  }
  /** Waits for stations that call in. @returns the port, once it is open */
  listen(port: number): Promise<number> {
    const server = (this.server = createServer({ noDelay: true }, (line) => void this.calledBy(line)));
    return new Promise((done, fail) => {
      server.once('error', (error) => (log(this.app, 'trouble', `Stations cannot call in: ${error.message}.`), fail(error))); // prettier-ignore
      server.listen(port, () => done((this.listens = (server.address() as { port: number }).port)));
    });
  }
  end(): void {
    this.ended = true;
    if (this.timer) clearTimeout(this.timer);
    this.server?.close();
    for (const live of this.lives.values()) live.contact.end();
  }

  private live(id: string): StationLive {
    let live = this.lives.get(id);
    if (!live) {
      live = new StationLive(this.app, id);
      void live.row; // it is there
      this.lives.set(id, live);
    }
    return live;
  }
  /** Fetches whose time has come, lets lines go that nobody needs. */
  beat(): void {
    const rows = listStations(this.app.db);
    const now = Date.now();
    const health = now - this.healthAt > HEALTH_MS;
    if (health) this.healthAt = now;
    for (const row of rows) {
      const live = this.live(row.id);
      live.contact.rest();
      if (health) live.raise();
      const { everyMin, address } = row.wish;
      if (everyMin === null || !address || live.contact.busy) continue;
      if (row.askedAt !== null && now - row.askedAt < everyMin * MINUTE) continue;
      putStation(this.app.db, { ...row, askedAt: now });
      this.fetchBy(live, BY);
    }
  }
  private fetchBy(live: StationLive, by: string): void {
    // What it could not do is seen at its link; silence becomes an alarm by itself.
    void live.fetch(undefined, by).catch(() => undefined);
  }
  private async calledBy(socket: Socket): Promise<void> {
    socket.on('error', () => socket.destroy());
    const link = new FieldLink({
      write: (bytes) => void (socket.writable && socket.write(bytes)),
      onBytes: (hear) => void socket.on('data', hear),
      onEnd: (hear) => void socket.on('close', hear),
      close: () => socket.destroy(),
    });
    try {
      const { serial } = helloSaid(await link.ask('hello'));
      const row = listStations(this.app.db).find((s) => s.serial === serial) ?? listStations(this.app.db).find((s) => s.serial === null && !s.wish.address); // prettier-ignore
      if (row?.wish.calls !== 'may call in by itself') return link.close();
      if (row.serial === null) putStation(this.app.db, { ...row, serial });
      const live = this.live(row.id);
      await live.contact.took(link);
      this.fetchBy(live, 'its call');
    } catch {
      link.close(); // it hung up, or is no station
    }
  }

  list(): StationsView {
    const stations = listStations(this.app.db).map((row) => lineOf(this.app, row, this.live(row.id)));
    return { stations: stations.sort(byAttention), listens: this.listens };
  }
  view(id: string): StationView {
    const live = this.live(id);
    return viewOf(this.app, live.row, live);
  }
  private mayBe(wish: StationWish, but: string | null): void {
    const other = listStations(this.app.db).find((s) => s.id !== but && (s.wish.name === wish.name || (wish.address !== '' && s.wish.address === wish.address))); // prettier-ignore
    if (other) throw conflict('station', `${other.wish.name} has that ${other.wish.name === wish.name ? 'name' : 'address'}.`, 'Choose another one.'); // prettier-ignore
  }
  add(wish: StationWish, by: string): { id: string } {
    this.mayBe(wish, null);
    const row: StationRow = { id: randomUUID(), wish, serial: null, state: null, live: null, contactAt: null, aheadS: 0, runs: '', draft: '', run: 0, tables: {}, earlier: [], askedAt: null }; // prettier-ignore
    putStation(this.app.db, row);
    log(this.app, 'field', `${wish.name} was added.`, { by });
    return { id: row.id };
  }
  change(id: string, wish: StationWish, by: string): void {
    const live = this.live(id);
    this.mayBe(wish, id);
    const { row } = live;
    putStation(this.app.db, { ...row, wish });
    // Another address is another line.
    if (row.wish.address !== wish.address && !live.contact.busy) live.contact.hangUp();
    live.raise();
    log(this.app, 'field', `${wish.name} is looked after differently.`, { by });
  }
  remove(id: string, by: string): void {
    const live = this.live(id);
    const { name } = live.row.wish;
    live.stopFetching();
    live.end();
    this.lives.delete(id);
    dropStation(this.app.db, id);
    log(this.app, 'field', `${name} was let go; its takes stay.`, { by });
  }
  reach(id: string): StationView {
    this.live(id).look();
    return this.view(id);
  }
  draft(id: string, text: string): void {
    putStation(this.app.db, { ...this.live(id).row, draft: text });
  }
  send = (id: string, text: string, withoutFetching: string | undefined, by: string) =>
    this.live(id).send(text, withoutFetching, by);
  fetch = async (id: string, tables: readonly string[] | undefined, by: string) =>
    void (await this.live(id).fetch(tables, by));
  stop(id: string): void {
    this.live(id).stopFetching();
  }
  setClock = (id: string, by: string) => this.live(id).setClock(by);
  set = (id: string, what: Parameters<StationPort['set']>[1], by: string) => this.live(id).set(what, by);
  play = (id: string, act: { do: string; seconds?: number; times?: number }) => this.live(id).play(act);
}
