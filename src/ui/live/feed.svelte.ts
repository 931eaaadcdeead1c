import { CHANNEL_STATES, EMPTY_STATUS, type ChannelState, type EngineStatus } from '$contract/engine-status';
import {
  FRAME_KINDS,
  FrameReader,
  decodeBuckets,
  decodeExtremes,
  decodeJson,
  decodeValues,
  decodeWave,
  LOOK_MOST,
  parseStripKey,
  type Bench,
  type Extremes,
  type Hello,
  type LiveNote,
  type Look,
  type LookTold,
  type RawFrame,
  type Values,
} from '$contract/live';
import type { AlarmNews } from '$contract/alarm';
import type { PeopleNews } from '$contract/people';
import { call, send } from '../api';
import { StripHistory } from './history';
import { WaveHistory } from './wave-history';

const RETRY_MS = 1000;
const STALE_MS = 2000;
const AGE_MS = 500;
const NOTES = 100;
const same = (a: Look, b: Look) =>
  a.strips.join() === b.strips.join() &&
  a.waves.join() === b.waves.join() &&
  a.radio === b.radio &&
  a.catches === b.catches &&
  a.captures === b.captures;

/** Told what is heard of a receiver: frames as they came. */
type RadioLook = 'radio' | 'catches' | 'captures';
export type RadioSink = (kind: number, payload: Uint8Array) => void;

/** The page's one connection to what is measured. Reconnects by itself; says when it is cut off. */
export class LiveFeed {
  connected = $state(false);
  status = $state.raw<EngineStatus>(EMPTY_STATUS);
  values = $state.raw<Values | null>(null);
  alarms = $state.raw<AlarmNews>({ open: [], shelved: [], quiet: false });
  people = $state.raw<PeopleNews | null>(null);
  extremes = $state.raw<Extremes | null>(null);
  channelIds = $state.raw<string[]>([]);
  notes = $state.raw<LiveNote[]>([]);
  private places = new Map<string, number>();
  /** Counts buckets frames: strips redraw when it rises. */
  private readonly drawers = new Set<() => void>();
  /** By the keys that were asked for (see stripKey). */
  readonly history = new Map<string, StripHistory>();
  readonly waves = new Map<string, WaveHistory>();
  bucketMs = 50;
  /** How many look at each strip and at all samples of each channel. */
  private readonly lookers = { strips: new Map<string, number>(), waves: new Map<string, number>() };
  /** The receiver that is looked at, and who is told of it. */
  private radio: { unit: string; what: RadioLook; sink: RadioSink } | null = null;
  /** What was asked for last, and what the frames that arrive carry. */
  private asked: Look = { strips: [], waves: [] };
  private told: Look = { strips: [], waves: [] };
  private anew: string[] = [];
  private streamId = '';
  private turning = false;
  private abort: AbortController | null = null;
  private heardMs = 0;
  private wasCut = false;
  /** Whether what is shown is old: the connection is cut or silent. */
  stale = $state(false);
  /** When the last reading came, by the clock of this page. */
  lastAt = $state(0);
  private ageing: ReturnType<typeof setInterval> | undefined;

  /** @param onSetup called when the engine measures another set of channels @param onNote for each note
   *  @param onBoard for each board that somebody arranges */
  constructor(
    private readonly onSetup: () => void,
    private readonly onNote: (note: LiveNote) => void,
    private readonly onBoard: (id: string) => void = () => undefined,
  ) {}

  /** Looks at strips (by key) and at every sample of some channels, until the undo is called. Whoever looks at the same shares it; the stream
   *  goes on, and only what nobody looked at before is sent with its past. @returns the undo */
  watch(strips: readonly string[], waves: readonly string[] = []): () => void {
    const count = (by: 1 | -1) => {
      for (const [all, keys] of [
        [this.lookers.strips, strips],
        [this.lookers.waves, waves],
      ] as const)
        for (const key of keys) {
          const n = (all.get(key) ?? 0) + by;
          if (n > 0) all.set(key, n);
          else all.delete(key);
        }
      // What is put up and taken down in one go is asked for once.
      queueMicrotask(() => void this.turn());
    };
    count(1);
    let looks = true;
    return () => {
      if (looks) count(-1);
      looks = false;
    };
  }

  /** Looks at the band of one receiver, or at pictures over time, until the undo is called. @returns the undo */
  watchRadio(unit: string, what: RadioLook, sink: RadioSink): () => void {
    const own = (this.radio = { unit, what, sink });
    queueMicrotask(() => void this.turn());
    return () => {
      if (this.radio !== own) return;
      this.radio = null;
      queueMicrotask(() => void this.turn());
    };
  }

  private readonly benches = new Set<(bench: Bench) => void>();
  /** Calls back when a bench of radio stands otherwise, until the undo is called. @returns the undo */
  watchBench(name: Bench, changed: () => void): () => void {
    const on = (bench: Bench) => bench === name && changed();
    this.benches.add(on);
    return () => this.benches.delete(on);
  }

  private get wanted(): Look {
    const { strips, waves } = this.lookers;
    return {
      strips: [...strips.keys()].slice(0, LOOK_MOST),
      waves: [...waves.keys()].slice(0, LOOK_MOST),
      ...(this.radio && { [this.radio.what]: this.radio.unit }),
    };
  }

  /** Turns the open stream to what is looked at now. One that is being opened, or was cut off, asks for that by itself. */
  private async turn(): Promise<void> {
    if (this.turning) return;
    this.turning = true;
    while (this.streamId && !same(this.asked, this.wanted)) {
      const id = this.streamId;
      const body = (this.asked = this.wanted);
      try {
        await call('PUT /api/live/[id]', { params: { id }, body });
      } catch {
        // A stream that cannot be turned is opened anew, with what is wanted then.
        if (id === this.streamId && this.abort) this.connect();
      }
    }
    this.turning = false;
  }

  /** Connects. */
  open(): void {
    this.ageing ??= setInterval(() => this.age(), AGE_MS);
    if (!this.abort) this.connect();
  }

  /** Readings grow old by themselves: nothing arrives to say so. */
  private age(): void {
    const silentMs = performance.now() - this.heardMs;
    this.stale = this.heardMs > 0 && silentMs > STALE_MS;
    this.lastAt = Math.round((Date.now() - silentMs) / 1000) * 1000;
  }

  private connect(): void {
    this.abort?.abort();
    const abort = new AbortController();
    this.abort = abort;
    this.streamId = '';
    void this.run(abort);
  }

  close(): void {
    this.abort?.abort();
    this.abort = null;
    this.connected = false;
    clearInterval(this.ageing);
    this.ageing = undefined;
    this.streamId = '';
  }

  private async run(abort: AbortController): Promise<void> {
    while (!abort.signal.aborted) {
      try {
        this.streamId = '';
        this.asked = this.wanted;
        const response = await send('GET /api/live', { query: { ...this.asked } }, { signal: abort.signal });
        const frames = new FrameReader();
        const reader = response.body!.getReader();
        for (;;) {
          const { done, value } = await reader.read();
          if (done) break;
          for (const frame of frames.push(value)) this.take(frame);
        }
      } catch {
        // cut off: said by `connected`, tried again below
      }
      if (abort.signal.aborted) return;
      this.wasCut ||= this.connected;
      this.connected = false;
      await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
    }
  }

  private take({ kind, sequence, payload }: RawFrame): void {
    this.connected = true;
    this.heardMs = performance.now();
    if (this.stale) this.stale = false;
    switch (kind) {
      case FRAME_KINDS.hello: {
        const hello = decodeJson<Hello>(payload);
        this.bucketMs = hello.bucketMs;
        this.streamId = hello.id;
        void this.turn(); // somebody may look at something else since it was asked for
        const changed = this.channelIds.join() !== hello.channelIds.join();
        const first = this.channelIds.length === 0;
        this.channelIds = hello.channelIds;
        this.places = new Map(hello.channelIds.map((id, k) => [id, k]));
        this.values = null;
        // Whatever changed while nothing was heard was told to nobody here.
        if ((changed && !first) || this.wasCut) this.onSetup();
        this.wasCut = false;
        return;
      }
      case FRAME_KINDS.look:
        return this.turned(decodeJson<LookTold>(payload));
      case FRAME_KINDS.past:
      case FRAME_KINDS.buckets: {
        const { endMs, bucketMs, strips, data } = decodeBuckets(payload);
        const tracks = (kind === FRAME_KINDS.past ? this.anew : this.told.strips)
          .filter((key) => parseStripKey(key).ms === bucketMs)
          .map((key) => this.history.get(key));
        for (let i = 0; i < data.length;) {
          for (let k = 0; k < strips; k++, i += 2) tracks[k]?.push(data[i], data[i + 1]);
        }
        for (const track of tracks) if (track) track.endMs = endMs;
        for (const draw of this.drawers) draw();
        return;
      }
      case FRAME_KINDS.values:
        if (!this.values) performance.mark('first reading');
        this.values = decodeValues(payload);
        return;
      case FRAME_KINDS.wave:
        this.waves.get(this.told.waves[sequence])?.push(decodeWave(payload));
        return;
      case FRAME_KINDS.heard:
      case FRAME_KINDS.heardPast:
      case FRAME_KINDS.heardFault:
      case FRAME_KINDS.radio:
      case FRAME_KINDS.caught:
      case FRAME_KINDS.capture:
        return this.radio?.sink(kind, payload);
      case FRAME_KINDS.bench:
        for (const on of this.benches) on(decodeJson<Bench>(payload));
        return;
      case FRAME_KINDS.extremes:
        this.extremes = decodeExtremes(payload);
        return;
      case FRAME_KINDS.board:
        this.onBoard(decodeJson<string>(payload));
        return;
      case FRAME_KINDS.alarms:
        this.alarms = decodeJson<AlarmNews>(payload);
        return;
      case FRAME_KINDS.people:
        this.people = decodeJson<PeopleNews>(payload);
        return;
      case FRAME_KINDS.status:
        this.status = decodeJson<EngineStatus>(payload);
        return;
      case FRAME_KINDS.note: {
        const notes = decodeJson<LiveNote[]>(payload);
        const known = new Set(this.notes.map((n) => `${n.atMs} ${n.says}`));
        const fresh = notes.filter((n) => !known.has(`${n.atMs} ${n.says}`));
        this.notes = [...this.notes, ...fresh].slice(-NOTES);
        // What was told on connecting is no news: the page has just been made from it.
        if (notes.length === 1) fresh.forEach(this.onNote);
      }
    }
  }

  /** From here on frames carry something else; what stays keeps its past. */
  private turned({ strips, waves, anew }: LookTold): void {
    this.told = { strips, waves };
    this.anew = anew;
    for (const key of this.history.keys()) if (!strips.includes(key)) this.history.delete(key);
    for (const key of anew) this.history.set(key, new StripHistory(parseStripKey(key).ms));
    for (const id of this.waves.keys()) if (!waves.includes(id)) this.waves.delete(id);
    for (const id of waves) if (!this.waves.has(id)) this.waves.set(id, new WaveHistory());
  }

  /** Calls back after each step of the strips. @returns the undo */
  onStep(draw: () => void): () => void {
    this.drawers.add(draw);
    return () => void this.drawers.delete(draw);
  }

  private placeOf(id: string): number {
    return this.places.get(id) ?? -1;
  }

  value(id: string): number {
    return this.values?.last[this.placeOf(id)] ?? NaN;
  }
  /** Lowest, highest and mean since the take's start or a reset. */
  since(id: string): { min: number; max: number; mean: number } {
    const k = this.placeOf(id);
    const { min, max, mean } = this.extremes ?? {};
    return { min: min?.[k] ?? NaN, max: max?.[k] ?? NaN, mean: mean?.[k] ?? NaN };
  }
  raw(id: string): number {
    return this.values?.raw[this.placeOf(id)] ?? NaN;
  }
  stateOf(id: string): ChannelState {
    const code = this.values?.state[this.placeOf(id)];
    return code === undefined ? 'not measured' : CHANNEL_STATES[code];
  }
}
