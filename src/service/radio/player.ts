import { ListenerPort } from '$engine/radio/listener-port';
import { recordedIq, type RecordedIq } from '$engine/radio/recorded';
import type { Sampled } from '$core/samples/sampled';
import type { RadioWish } from '$contract/radio';
import type { ListenSink } from '$engine/units/driver';

const BEAT_MS = 50;
/** Samples that a look takes at the least, s: a picture. */
const LOOK_S = 0.05;

/** Plays a recorded band into what listens, at its own speed or slower, from any place on. While it stands still a look is made at its place. */
export class TakePlayer {
  readonly band: RecordedIq;
  private readonly port: ListenerPort;
  private wish: RadioWish = { band: null, catching: null };
  private at = 0;
  private timer: NodeJS.Timeout | null = null;
  /** Whether what is pushed next follows what was pushed last. */
  private jumped = true;
  /** Of its own speed; 0 while it stands still. */
  speed = 0;

  constructor(
    signal: Sampled,
    snapshot: unknown,
    private readonly told: ListenSink,
    private readonly release: () => void,
  ) {
    this.band = recordedIq(signal, snapshot);
    this.port = new ListenerPort(told);
  }

  get durationS(): number {
    return this.band.length / this.band.state.sampleRateHz;
  }
  get atS(): number {
    return this.at / this.band.state.sampleRateHz;
  }

  want(wish: RadioWish): void {
    const idle = !wish.band && !wish.catching && !wish.reading;
    this.wish = wish;
    this.port.want(wish);
    if (idle) this.play(0);
    else if (this.speed === 0) this.look();
  }

  /** Goes to a place, s from the begin. */
  seek(atS: number): void {
    const { sampleRateHz } = this.band.state;
    this.at = Math.max(0, Math.min(this.band.length - 1, Math.round(atS * sampleRateHz)));
    this.jumped = true;
    if (this.speed === 0) this.look();
  }

  play(speed: number): void {
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
    this.speed = speed;
    if (speed === 0) return;
    if (this.at >= this.band.length - 1) this.at = 0;
    this.jumped = true;
    this.timer = setInterval(() => {
      const { sampleRateHz } = this.band.state;
      const count = Math.min(
        Math.round((BEAT_MS / 1000) * sampleRateHz * this.speed),
        this.band.length - this.at,
      );
      if (count <= 0) return this.play(0);
      this.push(this.at, count);
      this.at += count;
    }, BEAT_MS);
  }

  /** One look at the place where it stands: long enough for a picture of the band, and for one over time. */
  private look(): void {
    const { sampleRateHz } = this.band.state;
    const { catching } = this.wish;
    const seconds = Math.max(LOOK_S, catching ? 1.2 * (catching.lengthS + catching.beforeS) : 0);
    const count = Math.min(Math.ceil(seconds * sampleRateHz), this.band.length);
    this.jumped = true;
    this.push(Math.max(0, Math.min(this.at, this.band.length - count)), count);
  }

  private push(first: number, count: number): void {
    const iq = this.band.read(first, count);
    const { state } = this.band;
    // What was not recorded gives no picture: the one before must not stand for it.
    const there = iq.reduce((n, v) => (v === v ? n + 1 : n), 0) / 2;
    if (this.speed === 0 && there < count / 2)
      this.told({
        says: 'Samples are missing at this place of the recording.',
        next: 'Go a little before or behind it.',
      });
    this.port.push(
      { first, iq, overload: false, anew: this.jumped },
      state,
      ((first + count) / state.sampleRateHz) * 1000,
    );
    this.jumped = false;
  }

  /** Lets go of the take. */
  close(): void {
    this.play(0);
    this.port.close();
    this.release();
  }
}
