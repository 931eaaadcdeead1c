import { CHANNEL_STATES, type ChannelState, type EngineStatus } from '$contract/engine';
import {
  FRAME_KINDS,
  FrameReader,
  decodeBuckets,
  decodeJson,
  decodeValues,
  type Hello,
  type LiveNote,
  type RawFrame,
  type Values,
} from '$contract/live';
import { StripHistory } from './history';

const RETRY_MS = 1000;
const STALE_MS = 2000;
const NOTES = 100;

/** The page's one connection to what is measured. Reconnects by itself; says when it is cut off. */
export class LiveFeed {
  connected = $state(false);
  status = $state.raw<EngineStatus>({
    state: 'Watching',
    take: null,
    proving: null,
    units: [],
    rules: [],
    outputs: {},
    actualRates: {},
  });
  values = $state.raw<Values | null>(null);
  channelIds = $state.raw<string[]>([]);
  notes = $state.raw<LiveNote[]>([]);
  private places = new Map<string, number>();
  /** Counts buckets frames: strips redraw when it rises. */
  private readonly drawers = new Set<() => void>();
  readonly history = new Map<string, StripHistory>();
  bucketMs = 50;
  private strips: string[] = [];
  private abort: AbortController | null = null;
  private heardMs = 0;

  /** @param onSetup called when the engine measures another set of channels @param onNote for each note */
  constructor(
    private readonly onSetup: () => void,
    private readonly onNote: (note: LiveNote) => void,
  ) {}

  /** Asks for these strips; an open connection is replaced when they differ. */
  want(strips: string[]): void {
    if (this.abort && strips.join() === this.strips.join()) return;
    this.strips = strips;
    this.connect();
  }

  /** Connects for the first time, unless a page has asked for strips already. */
  open(): void {
    if (!this.abort) this.connect();
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
  }

  private async run(abort: AbortController): Promise<void> {
    while (!abort.signal.aborted) {
      try {
        const response = await fetch(`/api/live?strips=${this.strips.map(encodeURIComponent).join(',')}`, {
          signal: abort.signal,
        });
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
      this.connected = false;
      await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
    }
  }

  private take({ kind, payload }: RawFrame): void {
    this.connected = true;
    this.heardMs = performance.now();
    switch (kind) {
      case FRAME_KINDS.hello: {
        const hello = decodeJson<Hello>(payload);
        this.bucketMs = hello.bucketMs;
        this.history.clear();
        for (const id of hello.strips) this.history.set(id, new StripHistory());
        const changed = this.channelIds.join() !== hello.channelIds.join();
        const first = this.channelIds.length === 0;
        this.channelIds = hello.channelIds;
        this.places = new Map(hello.channelIds.map((id, k) => [id, k]));
        this.values = null;
        if (changed && !first) this.onSetup();
        return;
      }
      case FRAME_KINDS.buckets: {
        const { endMs, strips, data } = decodeBuckets(payload);
        const tracks = this.strips.map((id) => this.history.get(id));
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

  /** Whether what is shown is old: the connection is cut or silent. */
  get stale(): boolean {
    return !this.connected || performance.now() - this.heardMs > STALE_MS;
  }

  private placeOf(id: string): number {
    return this.places.get(id) ?? -1;
  }

  value(id: string): number {
    return this.values?.last[this.placeOf(id)] ?? NaN;
  }
  raw(id: string): number {
    return this.values?.raw[this.placeOf(id)] ?? NaN;
  }
  stateOf(id: string): ChannelState {
    const code = this.values?.state[this.placeOf(id)];
    return code === undefined ? 'not measured' : CHANNEL_STATES[code];
  }
}
