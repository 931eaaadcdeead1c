import { badInput } from '../errors';
import { ChannelFilter } from './channel-filter';
import { Crossings, type Begin } from './over-time';

/** What is caught of a channel over time. */
export interface CatchRequest {
  centreHz: number;
  widthHz: number;
  /** Of a picture, and how much of it lies before its begin, s. */
  lengthS: number;
  beforeS: number;
  /** When a picture begins: where the power crosses a level, at each multiple of a time, or when the one before is done. */
  begins: ({ by: 'level' } & Begin) | { by: 'clock'; everyS: number } | { by: 'itself' };
}

/** Samples over time, held where they begin. */
export interface Caught {
  sampleRateHz: number;
  centreHz: number;
  /** Time of the first sample, s since the receiver began, and the place of the begin in the picture. */
  fromS: number;
  beginAt: number;
  /** V rms over 50 Ω, I and Q in turn. */
  iq: Float32Array;
}
/** Samples of a picture at the most. */
const CAUGHT_MOST = 1 << 18;

/** Catches pictures of a channel over time from samples that come in blocks. */
export class Catcher {
  private readonly filter: ChannelFilter;
  private readonly crossings: Crossings | null;
  /** The last samples of the channel: enough for a picture and what lies before it. */
  private memory = new Float32Array(0);
  private memoryFirst = 0;
  private begin = -1;
  private free = 0;
  readonly length: number;
  private readonly before: number;

  /** @throws `bad_input` for a channel outside what is received, or a picture that is too long */
  constructor(
    private readonly request: CatchRequest,
    receiver: { centreHz: number; sampleRateHz: number },
  ) {
    const offset = request.centreHz - receiver.centreHz;
    if (Math.abs(offset) + request.widthHz / 2 > receiver.sampleRateHz / 2)
      throw badInput(
        'channel',
        `${request.centreHz / 1e6} MHz`,
        'It lies outside what is received: tune the receiver, or narrow it.',
      );
    this.filter = new ChannelFilter(receiver.sampleRateHz, offset, request.widthHz);
    const { sampleRateHz } = this.filter;
    this.length = Math.round(request.lengthS * sampleRateHz);
    this.before = Math.round(request.beforeS * sampleRateHz);
    if (!(this.length >= 16 && this.length <= CAUGHT_MOST))
      throw badInput(
        'length of the picture',
        `${request.lengthS} s`,
        `At this width it can be ${((16 / sampleRateHz) * 1000).toPrecision(3)} to ${((CAUGHT_MOST / sampleRateHz) * 1000).toPrecision(3)} ms.`,
      );
    if (!(this.before < this.length))
      throw badInput('time before', `${request.beforeS} s`, 'It has to be shorter than the picture.');
    this.crossings = request.begins.by === 'level' ? new Crossings(request.begins, sampleRateHz) : null;
  }

  /** @param iq of the receiver @param first index of the first sample @param told each picture that is whole */
  push(iq: Float32Array, first: number, told: (caught: Caught) => void): void {
    const out = this.filter.push(iq, first);
    if (out.iq.length === 0) return;
    this.remember(out.iq, out.first);
    for (const at of this.begins(out.iq, out.first)) {
      // One that is whole makes room for the next.
      this.whole(told);
      if (this.begin < 0 && at >= this.free && at - this.before >= this.memoryFirst) this.begin = at;
    }
    do
      if (this.begin < 0 && this.request.begins.by === 'itself')
        this.begin = Math.max(this.free, this.memoryFirst + this.before);
    while (this.whole(told));
  }

  /** Places at which a picture may begin. */
  private begins(iq: Float32Array, first: number): number[] {
    const { begins } = this.request;
    if (begins.by === 'level') return this.crossings!.push(iq, first);
    if (begins.by === 'itself')
      return this.begin < 0 ? [Math.max(this.free, this.memoryFirst + this.before)] : [];
    const every = begins.everyS * this.filter.sampleRateHz;
    const found: number[] = [];
    for (let k = Math.ceil(first / every); k * every < first + iq.length / 2; k++)
      found.push(Math.round(k * every));
    return found;
  }

  private remember(iq: Float32Array, first: number): void {
    const former = first === this.memoryFirst + this.memory.length / 2 ? this.memory : new Float32Array(0);
    if (former.length === 0) this.begin = -1; // what came before a hole is no part of a picture
    const keep = Math.min(former.length, 2 * (this.length + this.before));
    const next = new Float32Array(keep + iq.length);
    next.set(former.subarray(former.length - keep));
    next.set(iq, keep);
    this.memoryFirst = first - keep / 2;
    this.memory = next;
  }

  /** Tells the picture that was begun, once all of it is there. @returns whether it was */
  private whole(told: (caught: Caught) => void): boolean {
    if (this.begin < 0) return false;
    const from = this.begin - this.before;
    const at = 2 * (from - this.memoryFirst);
    if (at + 2 * this.length > this.memory.length) return false;
    this.begin = -1;
    this.free = from + this.length + this.before;
    const { sampleRateHz } = this.filter;
    told({
      sampleRateHz,
      centreHz: this.request.centreHz,
      fromS: from / sampleRateHz,
      beginAt: this.before,
      iq: this.memory.slice(at, at + 2 * this.length),
    });
    return true;
  }
}
