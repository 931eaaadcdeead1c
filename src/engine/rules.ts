import { LevelDetector } from '$core/signal/level-detector';
import type { NumberedRule } from '$contract/engine';
import type { Signal } from './signals';

/** A rule at work: watches one signal, moves one output. */
export class RuleWatch {
  holds = false;
  fired = 0;
  lastMs: number | null = null;
  private readonly detector: LevelDetector;

  constructor(
    readonly numbered: NumberedRule,
    readonly signal: Signal,
  ) {
    const { rule } = numbered;
    this.detector = new LevelDetector(rule.direction, rule.level, rule.hysteresis);
  }

  /** @param inForce false outside the time the rule is for @returns what to do to its output in this step, if anything */
  step(inForce: boolean, nowMs: number): 'set' | 'rest' | null {
    const { signal, detector } = this;
    if (signal.group.count === 0) return null;
    let passed = false;
    for (let from = 0; from < signal.group.count;) {
      const at = detector.find(signal.value, from, signal.group.count);
      if (at < 0) break;
      passed = true;
      from = at + 1;
    }
    if (!inForce) {
      this.holds = false;
      return null;
    }
    if (passed) {
      this.holds = true;
      this.fired++;
      this.lastMs = nowMs;
      return 'set';
    }
    if (this.holds && detector.past === false) {
      this.holds = false;
      return this.numbered.rule.after === 'return it to rest' ? 'rest' : null;
    }
    return null;
  }
}
