import type { NumberedRule } from '$contract/engine';
import type { Deed } from '$contract/rule';
import { ConditionWatch } from './condition-watch';
import type { Signal } from './signals';

const MS = 1_000_000n;

/** What a rule asks for in a step: its deeds, or that those that last be taken back. */
export interface RuleCall {
  deeds: Deed[];
  what: 'do' | 'take back';
  /** Instant of the sample that made it fire. */
  atNs: bigint;
}

/** A rule at work: watches its condition or the time and says what is to be done. */
export class RuleWatch {
  holds = false;
  fired = 0;
  lastMs: number | null = null;
  private readonly watch: ConditionWatch | null;
  private sinceNs: bigint | null = null;
  private turns = 0;

  /** @throws `conflict` when a channel it reads is not measured */
  constructor(
    readonly numbered: NumberedRule,
    signalOf: (channelId: string) => Signal | undefined,
  ) {
    const { rule } = numbered;
    this.watch = rule.cause === 'when' ? new ConditionWatch(rule.when, signalOf) : null;
  }

  reads = (signal: Signal) => this.watch?.reads(signal) ?? false;

  /** Goes on from where the same rule was before a change of the set-up. */
  follow({ fired, lastMs }: RuleWatch): void {
    Object.assign(this, { fired, lastMs });
  }

  /** @param inForce false outside the time the rule is for @param takeStartNs begin of the running take, for rules that count from there */
  step(inForce: boolean, nowNs: bigint, takeStartNs: bigint | null): RuleCall[] {
    const turns = this.watch ? this.watch.step() : this.clockTurns(inForce, nowNs, takeStartNs);
    if (!inForce) {
      const held = this.holds;
      this.holds = false;
      return held ? [{ deeds: this.lasting(), what: 'take back', atNs: nowNs }] : [];
    }
    return turns.flatMap(({ atNs, on }) => (on ? this.fire(atNs) : this.release(atNs)));
  }

  private clockTurns(inForce: boolean, nowNs: bigint, takeStartNs: bigint | null) {
    const { cause, time } = this.numbered.rule;
    const begin = cause === 'every' ? nowNs : takeStartNs;
    if (!inForce || begin === null) {
      this.sinceNs = null;
      return [];
    }
    if (this.sinceNs === null || (cause !== 'every' && this.sinceNs !== begin)) {
      this.sinceNs = begin;
      this.turns = 0;
    }
    const dueNs = this.sinceNs + BigInt(Math.round(time * 1e9)) * BigInt(this.turns + 1);
    if (dueNs > nowNs || (cause !== 'every' && this.turns > 0)) return [];
    this.turns++;
    return [{ atNs: dueNs, on: true }];
  }

  private fire(atNs: bigint): RuleCall[] {
    const { often, gap, deeds } = this.numbered.rule;
    const atMs = Number(atNs / MS);
    if (often === 'once' && this.fired > 0) return [];
    if (often === 'at most every' && this.lastMs !== null && atMs - this.lastMs < gap * 1000) return [];
    this.holds = this.watch !== null;
    this.fired++;
    this.lastMs = atMs;
    return [{ deeds, what: 'do', atNs }];
  }

  private release(atNs: bigint): RuleCall[] {
    if (!this.holds) return [];
    this.holds = false;
    return [{ deeds: this.lasting(), what: 'take back', atNs }];
  }

  private lasting = () =>
    this.numbered.rule.deeds.filter(
      (d) => (d.do === 'set' || d.do === 'move') && d.after === 'return it to rest',
    );
}
