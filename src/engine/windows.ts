import type { ConditionWatch, Turn } from './condition-watch';

const LATE_NS = 200_000_000n;

/** When the full rates are kept: opens with a condition or by a rule, some time before it, and closes some time after. */
export class Windows {
  /** Instant from which samples are kept; null while closed. */
  fromNs: bigint | null = null;
  /** Instant up to which they are, once that is known. */
  untilNs: bigint | null = null;
  private forced: boolean | null = null;

  constructor(
    private readonly watch: ConditionWatch | null,
    private readonly beforeNs: bigint,
    private readonly afterNs: bigint,
  ) {}

  /** Takes this step's turns. @param zeroNs begin of the file: nothing is kept from before it */
  step(zeroNs: bigint): void {
    for (const turn of this.watch?.step() ?? []) if (this.forced === null) this.take(turn, zeroNs);
  }

  private take({ atNs, on }: Turn, zeroNs: bigint): void {
    if (!on) {
      if (this.fromNs !== null) this.untilNs = atNs + this.afterNs;
      return;
    }
    this.untilNs = null;
    if (this.fromNs !== null) return;
    const wished = atNs - this.beforeNs;
    this.fromNs = wished > zeroNs ? wished : zeroNs;
  }

  /** A rule opens or closes it, whatever the condition says from then on. */
  force(open: boolean, nowNs: bigint): void {
    this.forced = open;
    if (open) {
      this.fromNs ??= nowNs;
      this.untilNs = null;
    } else if (this.fromNs !== null) this.untilNs ??= nowNs;
  }

  /** All that had come up to now is written; a window closes a little later than its end, for units that deliver late. */
  written(nowNs: bigint): void {
    if (this.untilNs === null || this.untilNs + LATE_NS > nowNs) return;
    this.fromNs = this.untilNs = null;
  }
}
