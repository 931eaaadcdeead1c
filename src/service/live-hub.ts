import {
  BLOCK_MS,
  CHANNEL_STATES,
  type ChannelState,
  type EngineStatus,
  type LiveFrame,
} from '$contract/engine';
import {
  FRAME_KINDS,
  encodeBuckets,
  encodeJson,
  encodeValues,
  type Hello,
  type LiveNote,
} from '$contract/live';

/** Buckets kept for pages that open later: ten minutes. */
const HISTORY = (10 * 60 * 1000) / BLOCK_MS;
/** Numbers are sent every so many frames: the eye reads five a second. */
const VALUES_EVERY = 4;
/** Notes told to a page that opens later, for the marks on its strips. */
const NOTES = 50;
const STEADY_HISTORY = (60 * 1000) / BLOCK_MS;

interface Track {
  min: Float32Array;
  max: Float32Array;
  raw: Float32Array;
}
interface Viewer {
  strips: string[];
  controller: ReadableStreamDefaultController<Uint8Array>;
}

/** Keeps the last minutes of every channel and serves them to any number of pages. A slow page loses frames, never the others'. */
export class LiveHub {
  private channelIds: string[] = [];
  private tracks = new Map<string, Track>();
  private at = 0;
  private endMs = 0;
  private frame: LiveFrame | null = null;
  private notes: LiveNote[] = [];
  private readonly viewers = new Set<Viewer>();
  status: EngineStatus = {
    state: 'Watching',
    take: null,
    proving: null,
    units: [],
    rules: [],
    outputs: {},
    actualRates: {},
  };

  /** A set-up was taken over: channels that stay keep their history. */
  setup(channelIds: string[]): void {
    this.channelIds = channelIds;
    this.frame = null;
    this.tracks = new Map(channelIds.map((id) => [id, this.tracks.get(id) ?? emptyTrack()]));
    for (const viewer of this.viewers) this.hello(viewer);
  }

  /** A step of the engine. */
  push(frame: LiveFrame): void {
    if (frame.last.length !== this.channelIds.length) return; // of a set-up that is on its way out
    this.frame = frame;
    this.endMs = frame.timeMs;
    const slot = this.at++ % HISTORY;
    this.channelIds.forEach((id, k) => {
      const track = this.tracks.get(id)!;
      track.min[slot] = frame.min[k];
      track.max[slot] = frame.max[k];
      track.raw[slot % STEADY_HISTORY] = frame.raw[k];
    });
    const values = frame.sequence % VALUES_EVERY === 0 ? encodeValues(frame.sequence, frame) : null;
    for (const viewer of this.viewers) {
      if ((viewer.controller.desiredSize ?? 0) <= 0) continue;
      if (viewer.strips.length)
        viewer.controller.enqueue(
          encodeBuckets(frame.sequence, {
            endMs: frame.timeMs,
            strips: viewer.strips.length,
            data: this.latest(viewer.strips, 1),
          }),
        );
      if (values) viewer.controller.enqueue(values);
    }
  }

  setStatus(status: EngineStatus): void {
    this.status = status;
    this.sendAll(encodeJson(FRAME_KINDS.status, status));
  }

  note(note: LiveNote): void {
    this.notes = [...this.notes.slice(1 - NOTES), note];
    this.sendAll(encodeJson(FRAME_KINDS.note, [note]));
  }

  private sendAll(bytes: Uint8Array): void {
    for (const { controller } of this.viewers)
      if ((controller.desiredSize ?? 0) > 0) controller.enqueue(bytes);
  }

  private latest(strips: string[], buckets: number): Float32Array {
    const n = Math.min(buckets, this.at, HISTORY);
    const out = new Float32Array(n * strips.length * 2);
    let i = 0;
    for (let b = this.at - n; b < this.at; b++) {
      for (const id of strips) {
        const track = this.tracks.get(id);
        out[i++] = track ? track.min[b % HISTORY] : NaN;
        out[i++] = track ? track.max[b % HISTORY] : NaN;
      }
    }
    return out;
  }

  private hello({ strips, controller }: Viewer): void {
    const hello: Hello = { channelIds: this.channelIds, strips, bucketMs: BLOCK_MS };
    controller.enqueue(encodeJson(FRAME_KINDS.hello, hello));
    controller.enqueue(encodeJson(FRAME_KINDS.status, this.status));
    controller.enqueue(encodeJson(FRAME_KINDS.note, this.notes));
    if (strips.length && this.at)
      controller.enqueue(
        encodeBuckets(0, { endMs: this.endMs, strips: strips.length, data: this.latest(strips, HISTORY) }),
      );
  }

  /** The stream of one page. @param strips channels whose extremes it draws */
  stream(strips: string[]): ReadableStream<Uint8Array> {
    let viewer: Viewer;
    return new ReadableStream<Uint8Array>(
      {
        start: (controller) => {
          viewer = { strips, controller };
          this.hello(viewer);
          this.viewers.add(viewer);
        },
        cancel: () => void this.viewers.delete(viewer),
      },
      new ByteLengthQueuingStrategy({ highWaterMark: 8 * 1024 * 1024 }),
    );
  }

  /** Means of the raw readings over the last blocks, oldest first; shorter when there is less. */
  rawMeans(channelId: string, seconds: number): Float32Array {
    const track = this.tracks.get(channelId);
    if (!track) return new Float32Array(0);
    const n = Math.min(Math.round((seconds * 1000) / BLOCK_MS), STEADY_HISTORY, this.at);
    return Float32Array.from(
      { length: n },
      (_, i) => track.raw[((this.at - n + i) % HISTORY) % STEADY_HISTORY],
    );
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
    for (const { controller } of this.viewers) {
      try {
        controller.close();
      } catch {
        // its page is gone already
      }
    }
    this.viewers.clear();
  }
}

const emptyTrack = (): Track => ({
  min: new Float32Array(HISTORY).fill(NaN),
  max: new Float32Array(HISTORY).fill(NaN),
  raw: new Float32Array(STEADY_HISTORY).fill(NaN),
});
