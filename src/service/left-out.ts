import type { KnownUnit } from '$contract/engine';

/** After so many failures on one unit it is left out. */
const MOST = 2;
/** Failures that lie further apart have nothing to do with each other. */
const WITHIN_MS = 10 * 60_000;

/** Units that the engine failed on again and again: they are left out as they are, until they are set up differently. */
export class LeftOut {
  private readonly failures = new Map<string, number[]>();
  private readonly out = new Map<string, string>();

  constructor(private readonly now: () => number = Date.now) {}

  /** The engine failed while it was at work on a unit. @returns whether it is left out from now on */
  failed(unit: KnownUnit): boolean {
    const recent = (this.failures.get(unit.serial) ?? []).filter((t) => this.now() - t < WITHIN_MS);
    recent.push(this.now());
    this.failures.set(unit.serial, recent);
    if (recent.length < MOST) return false;
    this.failures.delete(unit.serial);
    this.out.set(unit.serial, asText(unit));
    return true;
  }

  /** A unit as it is handed to the engine. */
  mark(unit: KnownUnit): KnownUnit {
    const as = this.out.get(unit.serial);
    if (as === undefined) return unit;
    if (as === asText(unit))
      return { ...unit, leftOut: 'The engine failed twice while it was at work on it.' };
    this.out.delete(unit.serial); // set up differently: it is tried again
    return unit;
  }
}

const asText = ({ kind, config, path }: KnownUnit) => JSON.stringify([kind, config, path]);
