import { Waterfall } from '$core/radio/waterfall';
import type { HeardLine } from '$core/radio/measure';
import { FRAME_KINDS, decodeJson } from '$contract/live';
import type { HeardBand, HeardFault } from '$contract/radio';
import { decodeHeard, decodePast } from '$contract/radio-wire';

/** Numbers are read five times a second at the most. */
const READ_MS = 200;

/** What a page hears of one receiver: the newest picture, the waterfall, and the moment that is looked at. */
export class Ear {
  /** The picture that numbers are read from: that of now, or the one that is held. */
  picture = $state.raw<HeardBand | null>(null);
  fault = $state.raw<HeardFault | null>(null);
  held = $state(false);
  /** Moment that is looked at, s; null for now. */
  pointerS = $state<number | null>(null);
  /** The newest, whether numbers are read from it or not: drawings take it. */
  newest: HeardBand | null = null;
  density: HeardBand['density'] = null;
  waterfall: Waterfall | null = null;
  private readMs = 0;
  private readonly drawers = new Set<() => void>();

  /** Takes a frame of the feed. @param changed called when the receiver is listened to otherwise */
  take(kind: number, payload: Uint8Array, changed: () => void): void {
    if (kind === FRAME_KINDS.radio) return changed();
    if (kind === FRAME_KINDS.heardFault) {
      this.fault = decodeJson<HeardFault>(payload);
      return;
    }
    if (kind === FRAME_KINDS.heardPast) {
      const { lines, rows } = decodePast(payload);
      this.waterfall = new Waterfall(lines);
      for (const { fromS, toS, levels } of rows)
        this.waterfall.push(
          Float32Array.from(levels, (v) => v / 100),
          fromS,
          toS,
        );
      return;
    }
    this.hear(decodeHeard(payload));
  }

  private hear(heard: HeardBand): void {
    if (this.held) return;
    const before = this.newest?.plan;
    const { plan } = heard;
    if (
      !this.waterfall ||
      this.waterfall.lines !== plan.lines ||
      (before && before.startHz !== plan.startHz)
    ) {
      this.waterfall = new Waterfall(plan.lines);
      this.pointerS = null;
      this.density = null;
    }
    this.waterfall.push(heard.highest, heard.fromS, heard.toS);
    if (heard.density) this.density = heard.density;
    this.newest = heard;
    if (this.fault) this.fault = null;
    const now = performance.now();
    if (now - this.readMs > READ_MS || !this.picture || this.picture.plan.startHz !== plan.startHz) {
      this.readMs = now;
      this.picture = heard;
    }
    this.draw();
  }

  /** Draws again what is there. */
  draw(): void {
    for (const draw of this.drawers) draw();
  }
  /** Calls back for each picture. @returns the undo */
  onPicture(draw: () => void): () => void {
    this.drawers.add(draw);
    return () => void this.drawers.delete(draw);
  }

  /** Levels at the moment that is looked at, dBm; null for now. */
  then(): Float32Array | null {
    const { waterfall, pointerS } = this;
    if (pointerS === null || !waterfall?.length) return null;
    return Float32Array.from(waterfall.row(waterfall.at(pointerS)).levels, (v) => v / 100);
  }
}

/** A line of a picture as it is measured. @param levels dBm */
export const heardLine = (
  { plan, receiver, transforms }: HeardBand,
  levels: ArrayLike<number>,
  pictures = 1,
): HeardLine => ({
  ...plan,
  levels,
  transforms: transforms * pictures,
  accuracy: receiver.accuracy,
});
