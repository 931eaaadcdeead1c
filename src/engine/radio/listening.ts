import { BandListener, type BandPicture } from '$core/radio/band';
import { countedFrequency } from '$core/radio/counting';
import { LevelDensity } from '$core/radio/density';
import { dbm } from '$core/radio/levels';
import { LineKeeper, levelsOf } from '$core/radio/lines';
import { planBand, type BandPlan } from '$core/radio/resolution';
import { isWide, planSteps, SteppedListener } from '$core/radio/stepping';
import { asFarrierError } from '$core/errors';
import type { HeardBand, ListenWish, ReceiverState } from '$contract/radio';
import type { ListenSink } from '../units/driver';
import type { IqBlock } from './source';

/** The density is told no oftener than this, s. */
const DENSITY_S = 0.2;
/** A counted frequency is told anew this often, s, from so many samples at the most. */
const COUNT_S = 0.25;
const COUNTED_MOST = 1 << 17;
const COLUMNS = 480;
const ROWS = 120;

/** Makes pictures of a band from samples as they come: its lines, the density of levels, and what was missed. */
export class Listening {
  private wish: ListenWish | null = null;
  private keepers = new Map<string, { keeper: LineKeeper; begins: number; as: string }>();
  private listener: BandListener | null = null;
  private density: LevelDensity | null = null;
  /** What hears a band that is wider than the receiver’s, in its place. */
  private stepped: SteppedListener | null = null;
  private builtFor = '';
  private pictures = 0;
  private pictureEnd = 0;
  private lost = 0;
  private overload = false;
  private said = '';

  constructor(private readonly told: ListenSink) {}

  /** What is wanted from now on; lines that mean the same go on. */
  want(wish: ListenWish | null): void {
    this.wish = wish;
    this.said = '';
    const former = this.keepers;
    this.keepers = new Map(
      (wish?.lines ?? []).map(({ id, line, held, begins }) => {
        const as = JSON.stringify(line);
        const own = former.get(id);
        const entry = own && own.as === as ? own : { keeper: new LineKeeper(line), begins, as };
        if (entry.begins !== begins) entry.keeper.clear();
        entry.begins = begins;
        entry.keeper.held = held;
        return [id, entry];
      }),
    );
  }

  /** @param timeMs of the block’s end */
  push({ first, iq, overload, anew }: IqBlock, receiver: ReceiverState, timeMs: number): void {
    if (!this.wish) return;
    if (!this.ready(this.wish, receiver)) return;
    this.overload ||= overload;
    if (anew) {
      this.listener?.restart();
      this.pictureEnd = 0;
    }
    if (this.stepped) {
      const picture = this.stepped.push(iq, first, receiver.centreHz);
      if (picture) this.tell(picture, this.stepped.stepped.plan, receiver, timeMs);
      return;
    }
    const { listener } = this;
    const rate = receiver.sampleRateHz;
    const count = iq.length / 2;
    // A picture each so long, however large the pieces are in which samples come.
    const { eachS } = this.wish;
    const counts = this.pictures % Math.max(1, Math.round(COUNT_S / eachS)) === 0;
    for (let at = 0; at < count;) {
      if (this.pictureEnd <= first + at) this.pictureEnd = first + at + Math.round(eachS * rate);
      const take = Math.min(count - at, this.pictureEnd - first - at);
      listener!.push(iq.subarray(2 * at, 2 * (at + take)), first + at);
      at += take;
      if (first + at === this.pictureEnd && counts) this.count(iq, receiver);
      if (first + at === this.pictureEnd) this.picture(receiver, timeMs - ((count - at) / rate) * 1000);
    }
  }

  /** Counts the frequency of a carrier in the samples that are there. */
  private count(iq: Float32Array, { centreHz, sampleRateHz, accuracy }: ReceiverState): void {
    this.counted = null;
    const wanted = this.wish?.count;
    const offset = (wanted?.hz ?? NaN) - centreHz;
    if (!wanted || !(Math.abs(offset) < sampleRateHz / 2)) return;
    const most = iq.subarray(0, 2 * COUNTED_MOST);
    if (most.length / 2 < (8 * sampleRateHz) / wanted.bandwidthHz) return;
    const { hz, expandedHz } = countedFrequency(most, sampleRateHz, offset, wanted.bandwidthHz);
    const byClock = accuracy ? (2 * accuracy.clock * centreHz) / Math.sqrt(3) : 0;
    if (Number.isFinite(hz))
      this.counted = { hz: centreHz + hz, expandedHz: Math.hypot(expandedHz, byClock) };
  }
  private counted: HeardBand['counted'] = null;

  /** Samples that did not reach this place. */
  missed(count: number): void {
    this.lost += count;
  }

  /** Builds what hears the band where the wish or the receiver became another. @returns whether it can be heard */
  private ready(wish: ListenWish, receiver: ReceiverState): boolean {
    const { request, top, height, fadeS } = wish;
    const wide = isWide(request, receiver);
    const key = JSON.stringify([request, wide || receiver.centreHz, receiver.sampleRateHz]);
    const drawn = JSON.stringify([top, height, fadeS === null]);
    // Another speed counts from the next picture on.
    if (wish.eachS !== this.eachS) this.pictureEnd = 0;
    this.eachS = wish.eachS;
    try {
      if (key !== this.builtFor) {
        this.listener = this.stepped = null;
        this.density = null;
        this.builtFor = key;
        if (wide)
          this.stepped = new SteppedListener(planSteps(request, { ...receiver, tunes: receiver.tunes! }));
        else
          this.listener = new BandListener(planBand(request, receiver), (levels) =>
            this.density?.push(levels),
          );
        // Lines of another band are other lines.
        for (const { keeper } of this.keepers.values()) keeper.clear();
        this.pictureEnd = 0;
      }
      if (this.stepped) return true;
      if (!this.listener) return false;
      if (!this.density || this.drawn !== drawn) {
        const { lines } = this.listener.plan;
        this.density = new LevelDensity(lines, Math.min(COLUMNS, lines), ROWS, top, height / ROWS);
        this.drawn = drawn;
      }
      return true;
    } catch (error) {
      const { text } = asFarrierError(error, 'the band');
      if (text.what !== this.said)
        this.told({ says: [text.what, text.why].filter(Boolean).join(' '), next: text.next ?? '' });
      this.said = text.what;
      return false;
    }
  }
  private drawn = '';
  private eachS = 0;

  private picture(receiver: ReceiverState, timeMs: number): void {
    const picture = this.listener!.look();
    if (picture) this.tell(picture, this.listener!.plan, receiver, timeMs);
  }

  private tell(picture: BandPicture, plan: BandPlan, receiver: ReceiverState, timeMs: number): void {
    if (!this.wish) return;
    const { detector, eachS, fadeS, request } = this.wish;
    const keepers = [...this.keepers.values()].map((k) => k.keeper);
    for (const keeper of keepers) keeper.push(picture, detector, timeMs);
    const levels = levelsOf(keepers);
    const heard: Omit<HeardBand, 'unit'> = {
      timeMs,
      fromS: picture.firstSample / receiver.sampleRateHz,
      toS: picture.endSample / receiver.sampleRateHz,
      plan,
      receiver: plan.steps > 1 ? { ...receiver, centreHz: request.centreHz } : receiver,
      transforms: picture.transforms,
      lost: picture.lost + this.lost,
      overload: this.overload,
      lines: [...this.keepers].map(([id, { keeper }], k) => ({
        id,
        sinceMs: keeper.sinceMs,
        pictures: keeper.pictures,
        levels: levels[k],
      })),
      highest: Float32Array.from(picture.powers.highest, dbm),
      counted: this.counted,
      density: this.pictures++ % Math.max(1, Math.round(DENSITY_S / eachS)) === 0 ? this.shares() : null,
    };
    this.lost = 0;
    this.overload = false;
    if (fadeS !== null) this.density?.fade(Math.exp(-eachS / fadeS));
    this.told(heard);
  }

  private shares(): HeardBand['density'] {
    const { density } = this;
    if (!density) return null;
    // By the root: what is seldom has to be seen beside what is always there.
    const cells = Uint8Array.from(density.shares(), (s) =>
      s > 0 ? Math.max(1, Math.round(255 * Math.sqrt(s))) : 0,
    );
    return { columns: density.columns, rows: density.rows, transforms: density.transforms, cells };
  }
}
