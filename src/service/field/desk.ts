import { FarrierError, asFarrierError, conflict, notFound } from '$core/errors';
import { hundredths, unpacked } from '$core/field/messages';
import { findings as findingsOf } from '$core/field/recorder/found';
import { faultsOf, nextName, recorderModel } from '$core/field/recorder/plan';
import type { RecorderState } from '$core/field/recorder/state';
import { setupOf, type BatchView, type CradleView, type FieldView, type Placed, type RecorderReadings, type RecorderView, type RecorderWish } from '$contract/field'; // prettier-ignore
import { getHouse, putHouse } from '$store/house';
import { findRecorder, listRecorders, putRecorder, type RecorderRow } from '$store/recorders';
import { log, type App } from '../app';
import { openTake } from '../takes';
import { binTakes } from '../inspect/keep';
import type { FieldPort, Lock } from './field-port';
import { openLink } from './lines';
import { InstrumentRefusal, fetchReadings, type FieldLink } from './link';
import { newsOf } from './news';
import { readingsOf } from './readings';
import { OVERWRITTEN, joined, keptOf, type Recording } from './recording';
import { takeOf } from './take';

const KEY = 'cradles';
const TEMPLATES = 'recorder-templates';
/** How often a cradle is looked at, ms: what is put in is seen within a second. */
const LOOK_MS = 400;
/** Of one that lies there and does nothing new it is kept this often that it is there, ms. */
const REST_MS = 3000;
const BY = 'the cradle';

interface Held {
  cradles: string[];
  fetches: boolean;
}
interface Cradle {
  address: string;
  link: FieldLink | null;
  state: CradleView['state'];
  says: string;
  holds: string | null;
  plays: CradleView['plays'];
  /** Next look after so many more: one that is silent is asked less often. */
  pause: number;
}
/** Looks after cradles and what lies in them: who is there, what it holds, and the next one of a batch. What is fetched of a recording is held until its take is
 *  written; a cut line goes on where it was. */
export class FieldDesk implements FieldPort {
  private timer: ReturnType<typeof setTimeout> | null = null;
  private ended = false;
  private cradles: Cradle[] = [];
  private fetched = new Map<string, Recording>();
  private passwords = new Map<string, string>();
  private batch: BatchView | null = null;
  /** One thing at a time is done with a cradle. */
  private line: Promise<unknown> = Promise.resolve();

  constructor(private readonly app: App) {
    this.follow();
  }
  private get held(): Held {
    return {
      cradles: process.env.FARRIER_CRADLE ? [process.env.FARRIER_CRADLE] : [],
      fetches: true,
      ...(getHouse(this.app.db, KEY) as Partial<Held> | null),
    };
  }
  /** Cradles as they are kept: those that stay keep their lines. */
  private follow(): void {
    const wanted = this.held.cradles;
    for (const gone of this.cradles.filter((c) => !wanted.includes(c.address))) gone.link?.close();
    this.cradles = wanted.map((address) => this.cradles.find((c) => c.address === address) ?? { address, link: null, state: 'looking', says: '', holds: null, plays: null, pause: 0 }); // prettier-ignore
  }

  begin(): void {
    const again = async () => {
      await this.look();
      if (!this.ended) this.timer = setTimeout(() => void again(), LOOK_MS).unref();
    };
    this.timer = setTimeout(() => void again(), 0).unref();
  }
  end(): void {
    this.ended = true;
    if (this.timer) clearTimeout(this.timer);
    for (const { link } of this.cradles) link?.close();
  }

  change({ cradles, fetches }: Held, by: string): void {
    putHouse(this.app.db, KEY, { cradles, fetches });
    this.follow();
    log(this.app, 'field', cradles.length ? `Cradles: ${cradles.join(', ')}.` : 'No cradle any more.', {
      by,
    });
  }

  /** Looks at every cradle once. */
  look = (): Promise<void> =>
    this.inTurn(async () => void (await Promise.all(this.cradles.map((c) => this.lookAt(c)))));
  private inTurn<T>(act: () => Promise<T>): Promise<T> {
    const turn = this.line.then(act);
    this.line = turn.catch(() => undefined);
    return turn;
  }

  private async lookAt(cradle: Cradle): Promise<void> {
    if (cradle.pause > 0) return void cradle.pause--;
    try {
      if (!cradle.link || cradle.link.ended) {
        cradle.link = await openLink(cradle.address);
        cradle.plays = await playing(cradle.link);
      }
      const hello = await cradle.link.hello();
      Object.assign(cradle, { state: 'answers', says: '' });
      if (hello.serial !== cradle.holds) {
        cradle.holds = hello.serial;
        await this.came(cradle, hello.serial);
      } else await this.read(cradle.link, hello.serial);
    } catch (error) {
      if (error instanceof InstrumentRefusal && error.refusal.why === 'empty') {
        if (cradle.holds) this.passwords.delete(cradle.holds);
        return void Object.assign(cradle, { state: 'answers', says: '', holds: null });
      }
      const { text } = asFarrierError(error, cradle.address);
      if (error instanceof InstrumentRefusal) return void (cradle.says = text.what);
      cradle.link?.close();
      Object.assign(cradle, { link: null, state: 'silent', says: [text.what, text.why].filter(Boolean).join(' '), holds: null, plays: null, pause: 4 }); // prettier-ignore
    }
  }

  /** A recorder that has just been put in: what it holds is fetched, and in a batch it is set up. */
  private async came(cradle: Cradle, serial: string): Promise<void> {
    const link = cradle.link!;
    const came = await this.read(link, serial);
    log(this.app, 'field', `${came.name || serial} lies in the cradle.`, { by: BY });
    if (!this.held.fetches && !this.batch) return;
    const fetched = await this.fetch(link, serial).then(
      () => true,
      (error: Error) => {
        log(this.app, 'field', `${serial}: ${asFarrierError(error, serial).message}`, { by: BY });
        return false;
      },
    );
    const { batch } = this;
    if (!batch || batch.done.some((d) => d.serial === serial && d.state === 'set up')) return;
    batch.done = batch.done.filter((d) => d.serial !== serial);
    const name = nextName(batch.wish.name, [...batch.done.map((d) => d.name), ...listRecorders(this.app.db).filter((r) => r.serial !== serial).map((r) => r.state.name)]); // prettier-ignore
    try {
      if (!fetched) throw conflict('recorder', 'What it holds could not be fetched: set up anew it would be lost.', 'Give its password, or fetch it by hand.'); // prettier-ignore
      await this.setUpNow(link, serial, setupOf(batch.wish, name), {}, BY);
      batch.done.push({ serial, name, state: 'set up', says: '' });
    } catch (error) {
      batch.done.push({ serial, name, state: 'failed', says: error instanceof InstrumentRefusal ? error.refusal.says : asFarrierError(error, serial).message }); // prettier-ignore
    }
  }

  private async read(link: FieldLink, serial: string): Promise<RecorderState> {
    const state = await link.state();
    const before = findRecorder(this.app.db, serial);
    const same = before?.run === state.run;
    const news = newsOf(state, before?.raised ?? []);
    // While nothing happens it is not written down at each look.
    if (same && news.length === 0 && before.state.end === state.end && before.state.phase === state.phase && before.state.alarms.cleared === state.alarms.cleared && Date.now() - before.seenAt < REST_MS) return state; // prettier-ignore
    const raised = [...(same ? before.raised : []), ...news.map((n) => n.key)];
    const kept: RecorderRow = { serial, seenAt: Date.now(), state, run: state.run, fetched: same ? before.fetched : 0, takeId: same ? before.takeId : null, aheadS: (state.saidMs - timeOf(state)) / 1000, raised, placed: before?.placed ?? null }; // prettier-ignore
    putRecorder(this.app.db, kept);
    // They stand until somebody acknowledges them: the recorder may be taken out again.
    for (const { level, says, key } of news) {
      this.app.alarms.comes(`${serial} ${key}`, level, says, Date.now(), true);
      log(this.app, 'field', `${says}.`.replace(/\.\.$/, '.'), { by: BY });
    }
    return state;
  }
  /** Fetches what is new, and writes its take. @throws InstrumentRefusal, `unavailable` */
  private async fetch(link: FieldLink, serial: string): Promise<void> {
    const state = await link.state();
    if (!state.setup || state.startedMs === null || state.end === 0) return;
    const width = recorderModel(state.model)?.measures.length ?? 1;
    const known = this.fetched.get(serial);
    // What was fetched once stays, also when the recorder has gone round since, or Farrier was started anew.
    const recording = known?.run === state.run ? known : (keptOf(this.app, findRecorder(this.app.db, serial), state.run) ?? { run: state.run, first: state.first, values: new Int16Array(0), holes: [] }); // prettier-ignore
    const reached = recording.first + recording.values.length / width;
    if (reached < state.first) {
      const count = state.first - reached;
      recording.values = joined(recording.values, new Int16Array(count * width).fill(hundredths(NaN)));
      recording.holes.push({ at: reached, count, why: OVERWRITTEN });
    }
    this.fetched.set(serial, recording);
    await fetchReadings(
      link,
      state,
      recording.first + recording.values.length / width,
      ({ values }) => (recording.values = joined(recording.values, values)),
      { password: this.passwords.get(serial) },
    );
    const count = recording.values.length / width;
    const row = findRecorder(this.app.db, serial);
    if (!row || (row.run === state.run && row.takeId && row.fetched === recording.first + count)) return;
    // The same recording, longer: the shorter take goes into the bin, from where it can be had back.
    const former = row.run === state.run ? row.takeId : null;
    const takeId = takeOf(
      this.app,
      { ...state, breaks: [...state.breaks, ...recording.holes] },
      recording.values,
      recording.first,
      timeOf(state),
      row.placed ?? null,
    );
    putRecorder(this.app.db, { ...row, state, run: state.run, fetched: recording.first + count, takeId });
    if (former) this.bin(former);
  }
  private bin(takeId: string): void {
    try {
      binTakes(this.app, [takeId], BY);
    } catch (error) {
      if (!(error instanceof FarrierError)) throw error; // gone already
    }
  }

  private async setUpNow(link: FieldLink, serial: string, setup: ReturnType<typeof setupOf>, more: { password?: string; lock?: Lock | null }, by: string): Promise<void> {
    const state = await link.state();
    // While it records its clock stays as it is: it is put to sleep first, when all it holds is fetched.
    if (state.phase === 'settles' || state.phase === 'records') {
      await link.ask('sleep', more.password === undefined ? {} : { password: more.password });
      // A reading may have come since it was fetched.
      await this.fetch(link, serial);
    }
    await link.ask('clock', { utcMs: timeOf(state) });
    await link.ask('setUp', { setup, ...more });
    if (more.lock) this.passwords.set(serial, more.lock.password);
    await this.read(link, serial);
    log(this.app, 'field', `${setup.name} (${serial}) was set up: every ${setup.intervalS} s, ${setup.start}.`, { by });
  } // prettier-ignore

  private linkOf(serial: string): FieldLink {
    const cradle = this.cradles.find((c) => c.holds === serial && c.link && !c.link.ended);
    if (!cradle) throw conflict('recorder', `${serial} is in no cradle.`, 'Put it in, then do it again.');
    return cradle.link!;
  }
  /** Sets up the recorder that lies in a cradle, after all it holds is fetched. @throws `conflict`, `bad_input` with what does not suit */
  setUp(serial: string, wish: RecorderWish, more: { password?: string; lock?: Lock | null }, by: string): Promise<void> {
    return this.inTurn(async () => {
      const link = this.linkOf(serial);
      if (more.password !== undefined) this.passwords.set(serial, more.password);
      const state = await link.state();
      const setup = setupOf(wish, nextName(wish.name, this.namesBut(serial)));
      const [fault] = faultsOf(recorderModel(state.model)!, setup, state.saidMs).filter((f) => f.bad);
      if (fault) throw conflict('set-up', fault.says, 'Change the sentence.');
      await this.fetch(link, serial).catch((error) => {
        if (error instanceof InstrumentRefusal) throw conflict('recorder', `What it holds cannot be fetched: ${error.refusal.says}`, 'Give its password, then set it up.');
        throw error;
      });
      await this.setUpNow(link, serial, setup, more, by).catch(told);
    });
  } // prettier-ignore
  private namesBut = (serial: string) => listRecorders(this.app.db).filter((r) => r.serial !== serial).map((r) => r.state.name); // prettier-ignore
  /** Fetches what is new by hand. @throws `conflict` */
  fetchNow(serial: string, password: string | undefined): Promise<void> {
    return this.inTurn(async () => {
      if (password !== undefined) this.passwords.set(serial, password);
      await this.fetch(this.linkOf(serial), serial).catch(told);
    });
  }
  sleep(serial: string, password: string | undefined, by: string): Promise<void> {
    return this.inTurn(async () => {
      const link = this.linkOf(serial);
      await this.fetch(link, serial).catch(told);
      await link.ask('sleep', password === undefined ? {} : { password }).catch(told);
      const { name } = await this.read(link, serial);
      log(this.app, 'field', `${name || serial} was put to sleep.`, { by });
    });
  }
  /** Clears its alarm: who looked at it says so from here. @throws `conflict` */
  clear(serial: string, by: string): Promise<void> {
    return this.inTurn(async () => {
      const link = this.linkOf(serial);
      await link.ask('clearAlarm').catch(told);
      const { name } = await this.read(link, serial);
      log(this.app, 'field', `The alarm of ${name || serial} was cleared.`, { by });
    });
  }
  /** @throws `not_found` */
  place(serial: string, placed: Placed, by: string): void {
    const row = findRecorder(this.app.db, serial);
    if (!row) throw notFound('recorder', serial);
    putRecorder(this.app.db, { ...row, placed });
    log(this.app, 'field', `${row.state.name || serial} stands at “${placed.place}”, put there by ${placed.by || 'nobody who said so'}.`, { by }); // prettier-ignore
  }
  template(name: string, wish: RecorderWish | null): void {
    const others = templatesOf(this.app).filter((t) => t.name !== name);
    putHouse(this.app.db, TEMPLATES, wish ? [...others, { name, wish }] : others);
  }
  /** The same onto the next: whatever is put in from now on is set up so. null ends it. */
  setBatch(wish: RecorderWish | null, by: string): void {
    this.batch = wish && { wish, done: [] };
    log(this.app, 'field', wish ? `Recorders that are put in are set up as “${wish.name}”.` : 'Recorders are set up one by one again.', { by }); // prettier-ignore
  }
  /** Of a cradle that plays: puts a recorder in, takes it out, pushes its button. @throws `conflict` where none plays */
  play(act: Parameters<FieldPort['play']>[0]): Promise<void> {
    return this.inTurn(async () => {
      const cradle = this.cradles.find((c) => c.plays && c.link && !c.link.ended);
      if (!cradle) throw conflict('cradle', 'None of them plays.', 'Put the recorder in by hand.');
      await cradle.link!.ask('play', act).catch(told);
    });
  }

  view(): FieldView {
    const here = new Set(this.cradles.map((c) => c.holds));
    const recorders = listRecorders(this.app.db).flatMap((row): RecorderView[] => {
      const model = recorderModel(row.state.model);
      if (!model) return [];
      return [{ serial: row.serial, model, state: row.state, seenMs: row.seenAt, here: here.has(row.serial), fetched: row.fetched, takeId: row.takeId, aheadS: row.aheadS, findings: this.findings(row), placed: row.placed ?? null, open: row.state.locked === 'nothing' || this.passwords.has(row.serial) }]; // prettier-ignore
    });
    return {
      cradles: this.cradles.map(({ address, state, says, holds, plays }) => ({
        address,
        state,
        says,
        holds,
        plays,
      })),
      recorders,
      batch: this.batch,
      fetches: this.held.fetches,
      templates: templatesOf(this.app),
    };
  }
  private found = new Map<string, { of: string; findings: RecorderView['findings'] }>();
  private findings({ serial, takeId, state, fetched }: RecorderRow): RecorderView['findings'] {
    if (!takeId || !state.setup) return null;
    const of = `${takeId} ${fetched}`;
    const known = this.found.get(serial);
    if (known?.of === of) return known.findings;
    let findings: RecorderView['findings'] = null;
    try {
      const reader = openTake(this.app, takeId);
      const [signal] = reader.signals;
      const { setup } = state;
      const first = Math.max(0, fetched - signal.length);
      findings = findingsOf(reader.values(signal.id, 0, signal.length), setup.intervalS, { high: setup.high?.at ?? null, low: setup.low?.at ?? null, from: Math.max(0, Math.ceil(setup.settleS / setup.intervalS) - first) }); // prettier-ignore
    } catch {
      // a take that is gone: its page says so
    }
    this.found.set(serial, { of, findings });
    return findings;
  }
  /** @throws `not_found` */
  readings(serial: string): RecorderReadings {
    const row = findRecorder(this.app.db, serial);
    if (!row) throw notFound('recorder', serial);
    return readingsOf(this.app, row);
  }
}

const templatesOf = (app: App) => (getHouse(app.db, TEMPLATES) ?? []) as FieldView['templates'];

/** True time where an instrument is, ms. */
const timeOf = ({ worldMs }: RecorderState): number => worldMs ?? Date.now();

/** An instrument’s refusal as a fault with a way on. */
function told(error: unknown): never {
  if (error instanceof InstrumentRefusal) throw conflict('recorder', error.refusal.says, error.refusal.why === 'password' ? 'Type its password.' : error.refusal.why === 'wait' ? 'Wait, then try once more.' : 'Look at it, then try again.'); // prettier-ignore
  throw error;
}

/** Which recorders a cradle plays; null for one that is real. */
async function playing(link: FieldLink): Promise<CradleView['plays']> {
  try {
    return unpacked<NonNullable<CradleView['plays']>>(await link.ask('play', { do: 'list', serial: '' }));
  } catch (error) {
    if (error instanceof InstrumentRefusal) return null;
    throw error;
  }
}
