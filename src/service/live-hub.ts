import { randomUUID } from 'node:crypto';
import { notFound } from '$core/errors';
import { higher, lower } from '$core/signal/extremes';
import { BLOCK_MS, type LiveFrame } from '$contract/engine';
import { CHANNEL_STATES, EMPTY_STATUS, type ChannelState, type EngineStatus } from '$contract/engine-status';
import type { AlarmNews } from '$contract/alarm';
import type { People, PeopleNews, Viewer } from '$contract/people';
import {
  FRAME_KINDS,
  encodeBuckets,
  encodeBytes,
  encodeExtremes,
  encodeJson,
  encodeValues,
  encodeWave,
  type Bench,
  type Extremes,
  type BucketKind,
  type Hello,
  type Look,
  type LiveNote,
  type LookTold,
  type Wave,
} from '$contract/live';
import { RAW_COUNT, Track, bucketsOf, byWidth, capacityOf, type StripKey } from './tracks';

/** Numbers are sent every so many frames: the eye reads five a second. */
const VALUES_EVERY = 4;
/** Extremes since the start change seldom: once a second will do. */
const EXTREMES_EVERY = 20;
/** Notes told to a page that opens later, for the marks on its strips. */
const NOTES = 50;

interface Viewing extends Look {
  /** Whose browser it is, where it is known. */
  person?: { viewer: Viewer; watches: boolean };
}
interface Page extends Viewing {
  readonly id: string;
  widths: ReturnType<typeof byWidth>;
  controller: ReadableStreamDefaultController<Uint8Array>;
  leave: () => void;
}

/** Keeps what every channel read and serves it to any number of pages. A slow page loses frames, never the others'. */
export class LiveHub {
  private channelIds: string[] = [];
  private tracks = new Map<string, Track>();
  private at = 0;
  private endMs = 0;
  /** When each of the last steps began: on a busy machine one covers more than its usual time. */
  private readonly beganMs = new Float64Array(RAW_COUNT);
  private frame: LiveFrame | null = null;
  private notes: LiveNote[] = [];
  private alarms: AlarmNews = { open: [], shelved: [], quiet: false };
  private people: People = { holder: null, asks: [], viewers: 0, watchers: 0 };
  private readonly pages = new Set<Page>();
  private extremes: Extremes & { sum: Float64Array; count: Float64Array } = emptyExtremes(0, 0);
  private takeId: string | null = null;
  status: EngineStatus = EMPTY_STATUS;
  /** Called when other channels' samples are wanted than before. */
  onWaves: (channelIds: string[]) => void = () => undefined;
  /** Called when other receivers are looked at than before. */
  onRadio: () => void = () => undefined;
  /** What was heard of a receiver so far, for a page that begins to look at it. */
  radioPast: (unit: string) => Uint8Array | null = () => null;
  /** Called when a page of a known browser opens. @returns what to call when it closes */
  onPerson: (viewer: Viewer, watches: boolean) => () => void = () => () => undefined;

  /** A set-up was taken over: channels that stay keep their history and extremes, but for those that read something else now. */
  setup(channelIds: string[], anew: string[] = []): void {
    const former = this.channelIds;
    const kept = (id: string) => !anew.includes(id);
    this.channelIds = channelIds;
    this.frame = null;
    this.tracks = new Map(channelIds.map((id) => [id, (kept(id) && this.tracks.get(id)) || new Track()]));
    const next = emptyExtremes(channelIds.length, this.extremes.sinceMs);
    channelIds.forEach((id, k) => {
      const at = kept(id) ? former.indexOf(id) : -1;
      if (at < 0) return;
      for (const part of ['min', 'max', 'mean', 'sum', 'count'] as const)
        next[part][k] = this.extremes[part][at];
    });
    this.extremes = next;
    for (const page of this.pages) this.hello(page);
  }

  /** A step of the engine. */
  push(frame: LiveFrame): void {
    if (frame.last.length !== this.channelIds.length) return; // of a set-up that is on its way out
    this.frame = frame;
    const at = this.at++;
    this.beganMs[at % RAW_COUNT] = this.endMs || frame.timeMs - BLOCK_MS;
    this.endMs = frame.timeMs;
    this.channelIds.forEach((id, k) =>
      this.tracks.get(id)!.push(at, frame.min[k], frame.max[k], frame.raw[k], frame.square[k]),
    );
    this.gather(frame);
    const values = frame.sequence % VALUES_EVERY === 0 ? encodeValues(frame.sequence, frame) : null;
    const extremes = frame.sequence % EXTREMES_EVERY === 0 ? encodeExtremes(this.extremes) : null;
    for (const page of this.pages) {
      if ((page.controller.desiredSize ?? 0) <= 0) continue;
      for (const [ms, keys] of page.widths)
        if (this.at % (ms / BLOCK_MS) === 0)
          page.controller.enqueue(this.buckets(FRAME_KINDS.buckets, keys, ms, 1));
      if (values) page.controller.enqueue(values);
      if (extremes) page.controller.enqueue(extremes);
    }
  }

  private gather({ min, max, mean }: LiveFrame): void {
    const e = this.extremes;
    for (let k = 0; k < min.length; k++) {
      e.min[k] = lower(e.min[k], min[k]);
      e.max[k] = higher(e.max[k], max[k]);
      if (mean[k] !== mean[k]) continue;
      e.sum[k] += mean[k];
      e.mean[k] = e.sum[k] / ++e.count[k];
    }
  }

  /** Lowest, highest and mean begin anew: at the start of a take, or by hand. @param channelId one only */
  reset(channelId?: string): void {
    if (!channelId) {
      this.extremes = emptyExtremes(this.channelIds.length, this.endMs);
    } else {
      const k = this.channelIds.indexOf(channelId);
      const { min, max, mean, sum, count } = this.extremes;
      if (k >= 0) min[k] = max[k] = mean[k] = NaN;
      sum[k] = count[k] = 0;
    }
    this.sendAll(encodeExtremes(this.extremes));
  }

  /** Every sample of channels that pages asked for. */
  pushWaves(waves: Wave[]): void {
    for (const page of this.pages) {
      if (page.waves.length === 0 || (page.controller.desiredSize ?? 0) <= 0) continue;
      for (const wave of waves) {
        const place = page.waves.indexOf(wave.channelId);
        if (place >= 0) page.controller.enqueue(encodeWave(place, wave));
      }
    }
  }
  /** Channels whose samples some page wants. */
  get wanted(): string[] {
    return [...new Set([...this.pages].flatMap((p) => p.waves))].slice(0, 64);
  }

  /** Receivers that some page looks at: at their band, at pictures over time, or at captures. */
  lookedAt(what: 'radio' | 'catches' | 'captures'): string[] {
    return [...new Set([...this.pages].flatMap((p) => p[what] || []))];
  }
  /** What was heard of a receiver, for the pages that look at it. */
  pushRadio(
    unit: string,
    what: 'heard' | 'caught' | 'capture' | 'fault' | 'changed',
    said: Uint8Array | object,
  ): void {
    const common = what === 'fault' || what === 'changed';
    const looks = (p: Page) =>
      ((common || what === 'heard') && p.radio === unit) ||
      ((common || what === 'caught') && p.catches === unit) ||
      ((common || what === 'capture') && p.captures === unit);
    const pages = [...this.pages].filter((p) => looks(p) && (p.controller.desiredSize ?? 0) > 0);
    if (pages.length === 0) return;
    const kind = {
      heard: 'heard',
      caught: 'caught',
      capture: 'capture',
      fault: 'heardFault',
      changed: 'radio',
    } as const;
    const bytes =
      said instanceof Uint8Array
        ? encodeBytes(FRAME_KINDS[kind[what]], said)
        : encodeJson(FRAME_KINDS[kind[what]], said);
    for (const page of pages) page.controller.enqueue(bytes);
  }
  /** A bench of radio stands otherwise: whoever shows it asks anew. */
  bench(name: Bench): void {
    this.sendAll(encodeJson(FRAME_KINDS.bench, name));
  }
  private tellPast({ radio, controller }: Page): void {
    const past = radio ? this.radioPast(radio) : null;
    if (past) controller.enqueue(encodeBytes(FRAME_KINDS.heardPast, past));
  }

  setStatus(status: EngineStatus): void {
    this.status = status;
    const takeId = status.state === 'Recording' ? (status.take?.id ?? null) : null;
    if (takeId && takeId !== this.takeId) this.reset();
    this.takeId = takeId;
    this.sendAll(encodeJson(FRAME_KINDS.status, status));
  }
  setAlarms(news: AlarmNews): void {
    this.alarms = news;
    this.sendAll(encodeJson(FRAME_KINDS.alarms, news));
  }
  setPeople(people: People): void {
    this.people = people;
    for (const page of this.pages) this.tellPeople(page);
  }
  /** The pages of a browser know it by its new name. */
  rename(viewer: Viewer): void {
    for (const { person } of this.pages) if (person?.viewer.id === viewer.id) person.viewer = viewer;
  }
  private tellPeople({ person, controller }: Page): void {
    if (!person || (controller.desiredSize ?? 0) <= 0) return;
    const news: PeopleNews = { ...this.people, you: { ...person.viewer, watches: person.watches } };
    controller.enqueue(encodeJson(FRAME_KINDS.people, news));
  }

  /** Pages that show a board fetch it anew, all others the names of the boards. */
  boardChanged(id: string): void {
    this.sendAll(encodeJson(FRAME_KINDS.board, id));
  }
  note(note: LiveNote): void {
    this.notes = [...this.notes.slice(1 - NOTES), note];
    this.sendAll(encodeJson(FRAME_KINDS.note, [note]));
  }

  private sendAll(bytes: Uint8Array): void {
    for (const { controller } of this.pages) if ((controller.desiredSize ?? 0) > 0) controller.enqueue(bytes);
  }

  /** The newest buckets of one width. */
  private buckets(kind: BucketKind, keys: StripKey[], ms: number, wanted: number): Uint8Array<ArrayBuffer> {
    const end = bucketsOf(ms, this.at);
    const n = Math.min(wanted, end, capacityOf(ms));
    const data = new Float32Array(n * keys.length * 2).fill(NaN);
    keys.forEach((key, s) => {
      const read = this.tracks.get(key.id)?.reader(key);
      if (!read) return;
      for (let b = 0; b < n; b++) {
        const at = (b * keys.length + s) * 2;
        [data[at], data[at + 1]] = read(end - n + b);
      }
    });
    return encodeBuckets(kind, { endMs: this.endMs, bucketMs: ms, strips: keys.length, data });
  }

  private hello(page: Page): void {
    const { controller, id } = page;
    const hello: Hello = { id, channelIds: this.channelIds, bucketMs: BLOCK_MS };
    controller.enqueue(encodeJson(FRAME_KINDS.hello, hello));
    controller.enqueue(encodeJson(FRAME_KINDS.status, this.status));
    controller.enqueue(encodeJson(FRAME_KINDS.note, this.notes));
    controller.enqueue(encodeJson(FRAME_KINDS.alarms, this.alarms));
    controller.enqueue(encodeExtremes(this.extremes));
    // Who comes sees the last readings at once, not with the next beat.
    if (this.frame) controller.enqueue(encodeValues(this.frame.sequence, this.frame));
    this.tellPeople(page);
    this.tellLook(page, page.strips);
    this.tellPast(page);
  }

  /** What the page is sent from now on, and the past of some of its strips. */
  private tellLook(page: Page, anew: string[]): void {
    const { strips, waves, radio, catches, captures, controller } = page;
    const told: LookTold = { strips, waves, radio, catches, captures, anew };
    controller.enqueue(encodeJson(FRAME_KINDS.look, told));
    for (const [ms, keys] of byWidth(anew))
      if (bucketsOf(ms, this.at) > 0) controller.enqueue(this.buckets(FRAME_KINDS.past, keys, ms, Infinity));
  }

  /** Another look of an open page: what it saw already is not told again. @throws `not_found` when its stream has ended */
  look(id: string, { strips, waves, radio, catches, captures }: Look): void {
    const page = [...this.pages].find((p) => p.id === id);
    if (!page) throw notFound('live stream', id);
    const anew = strips.filter((key) => !page.strips.includes(key));
    const samples = waves.join() !== page.waves.join();
    const tuned = radio !== page.radio;
    const caught = catches !== page.catches || captures !== page.captures;
    Object.assign(page, { strips, waves, radio, catches, captures, widths: byWidth(strips) });
    this.tellLook(page, anew);
    if (samples) this.onWaves(this.wanted);
    if (tuned) this.tellPast(page);
    if (tuned || caught) this.onRadio();
  }

  /** The stream of one page. */
  stream(look: Viewing): ReadableStream<Uint8Array> {
    let page: Page;
    return new ReadableStream<Uint8Array>(
      {
        start: (controller) => {
          page = {
            ...look,
            id: randomUUID(),
            widths: byWidth(look.strips),
            controller,
            leave: () => undefined,
          };
          this.hello(page);
          this.pages.add(page);
          if (look.person) page.leave = this.onPerson(look.person.viewer, look.person.watches);
          if (look.waves.length) this.onWaves(this.wanted);
          if (look.radio || look.catches || look.captures) this.onRadio();
        },
        cancel: () => {
          this.pages.delete(page);
          page.leave();
          if (page.waves.length) this.onWaves(this.wanted);
          if (page.radio || page.catches || page.captures) this.onRadio();
        },
      },
      new ByteLengthQueuingStrategy({ highWaterMark: 8 * 1024 * 1024 }),
    );
  }

  /** Means of the raw readings of those steps that lie in the last seconds as a whole, oldest first, one for each `BLOCK_MS`: a step that
   *  took longer stands there several times. Shorter when there is less. */
  rawMeans(channelId: string, seconds: number): Float32Array {
    const fromMs = this.endMs - 1000 * seconds - BLOCK_MS / 2;
    let first = this.at;
    for (let endMs = this.endMs; first > 0 && this.at - first < RAW_COUNT; first--) {
      const beganMs = this.beganMs[(first - 1) % RAW_COUNT];
      // What lies before a clock that was set back is not of these seconds.
      if (beganMs < fromMs || beganMs > endMs) break;
      endMs = beganMs;
    }
    const means = this.tracks.get(channelId)?.rawMeans(this.at, this.at - first) ?? new Float32Array(0);
    const endOf = (k: number) => (first + k + 1 < this.at ? this.beganMs[(first + k + 1) % RAW_COUNT] : this.endMs); // prettier-ignore
    const values: number[] = [];
    means.forEach((mean, k) => {
      const due = Math.round((endOf(k) - this.beganMs[first % RAW_COUNT]) / BLOCK_MS);
      do values.push(mean);
      while (values.length < due);
    });
    return Float32Array.from(values);
  }

  /** The engine's time up to which everything has arrived here, ms. */
  get timeMs(): number {
    return this.endMs;
  }

  /** Present value of a channel in its unit; NaN when it is not measured. */
  value(channelId: string): number {
    return this.frame?.last[this.channelIds.indexOf(channelId)] ?? NaN;
  }

  state(channelId: string): ChannelState {
    const at = this.channelIds.indexOf(channelId);
    return at < 0 || !this.frame ? 'not measured' : CHANNEL_STATES[this.frame.state[at]];
  }

  /** Ends all streams, so that the server can stop. */
  closeAll(): void {
    for (const { controller } of this.pages) {
      try {
        controller.close();
      } catch {
        // its page is gone already
      }
    }
    this.pages.clear();
  }
}

const emptyExtremes = (n: number, sinceMs: number) => ({
  sinceMs,
  min: new Float32Array(n).fill(NaN),
  max: new Float32Array(n).fill(NaN),
  mean: new Float32Array(n).fill(NaN),
  sum: new Float64Array(n),
  count: new Float64Array(n),
});
