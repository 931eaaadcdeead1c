import { CHANNEL_STATES, EMPTY_STATUS, type ChannelState, type EngineStatus } from '$contract/engine';
import {
  FRAME_KINDS,
  FrameReader,
  decodeBuckets,
  decodeExtremes,
  decodeJson,
  decodeValues,
  decodeWave,
  parseStripKey,
  type Extremes,
  type Hello,
  type LiveNote,
  type RawFrame,
  type Values,
} from '$contract/live';
import type { AlarmNews } from '$contract/alarm';
import type { PeopleNews } from '$contract/people';
import { StripHistory } from './history';
import { WaveHistory } from './wave-history';

const RETRY_MS = 1000;
const STALE_MS = 2000;
const AGE_MS = 500;
const NOTES = 100;
const listed = (names: string[]) => names.map(encodeURIComponent).join(',');

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
  private strips: string[] = [];
  private waveIds: string[] = [];
  private abort: AbortController | null = null;
  private heardMs = 0;
  private wasCut = false;
  /** Whether what is shown is old: the connection is cut or silent. */
  stale = $state(false);
  /** When the last reading came, by the clock of this page. */
  lastAt = $state(0);
  private watch: ReturnType<typeof setInterval> | undefined;

  /** @param onSetup called when the engine measures another set of channels @param onNote for each note
   *  @param onBoard for each board that somebody arranges */
  constructor(
    private readonly onSetup: () => void,
    private readonly onNote: (note: LiveNote) => void,
    private readonly onBoard: (id: string) => void = () => undefined,
  ) {}

  /** Asks for these strips (by key) and for every sample of some channels; an open connection is replaced when they differ. */
  want(strips: string[], waves: string[] = []): void {
    if (this.abort && strips.join() === this.strips.join() && waves.join() === this.waveIds.join()) return;
    this.strips = strips;
    this.waveIds = waves;
    for (const id of this.waves.keys()) if (!waves.includes(id)) this.waves.delete(id);
    for (const id of waves) if (!this.waves.has(id)) this.waves.set(id, new WaveHistory());
    this.connect();
  }

  /** Connects for the first time, unless a page has asked for strips already. */
  open(): void {
    this.watch ??= setInterval(() => this.age(), AGE_MS);
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
    void this.run(abort);
  }

  close(): void {
    this.abort?.abort();
    this.abort = null;
    this.connected = false;
    clearInterval(this.watch);
    this.watch = undefined;
  }

  private async run(abort: AbortController): Promise<void> {
    while (!abort.signal.aborted) {
      try {
        const response = await fetch(
          `/api/live?strips=${listed(this.strips)}&waves=${listed(this.waveIds)}`,
          {
            signal: abort.signal,
          },
        );
        if (!response.ok || !response.body) throw new Error(`live feed: ${response.status}`);
        const frames = new FrameReader();
        const reader = response.body.getReader();
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
        this.history.clear();
        for (const key of hello.strips) this.history.set(key, new StripHistory(parseStripKey(key).ms));
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
      case FRAME_KINDS.buckets: {
        const { endMs, bucketMs, strips, data } = decodeBuckets(payload);
        const tracks = this.strips
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
        this.values = decodeValues(payload);
        return;
      case FRAME_KINDS.wave:
        this.waves.get(this.waveIds[sequence])?.push(decodeWave(payload));
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
