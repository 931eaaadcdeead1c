import type { NumberedRule } from '$contract/engine';
import type { Deed } from '$contract/rule';
import { ConditionWatch, type Turn } from './condition-watch';
import type { Signal } from './signals';

const MS = 1_000_000n;

/** What a rule asks for in a step: its deeds, or that those that last be taken back. */
export interface RuleCall {
  deeds: Deed[];
  what: 'do' | 'take back';
  /** Instant of the sample that made it fire. */
  atNs: bigint;
}

/** What is not in force yet is looked back at this far when it comes into force: the start of a take is found a step after its cause. */
const LOOK_BACK_NS = 2_000_000_000n;

/** A rule at work: watches its condition or the time and says what is to be done. */
export class RuleWatch {
  holds = false;
  fired = 0;
  lastMs: number | null = null;
  private readonly watch: ConditionWatch | null;
  private sinceNs: bigint | null = null;
  private turns = 0;
  private inForce = false;
  /** Turns of the condition while it was not in force, oldest first. */
  private missed: Turn[] = [];

  /** @throws `conflict` when a channel it reads is not measured */
  constructor(
    readonly numbered: NumberedRule,
    signalOf: (channelId: string) => Signal | undefined,
  ) {
    const { rule } = numbered;
    this.watch = rule.cause === 'when' ? new ConditionWatch(rule.when, signalOf) : null;
  }

  reads = (signal: Signal) => this.watch?.reads(signal) ?? false;

  /** Goes on from where the same rule was before a change of the set-up: what holds goes on holding, and is not begun again.
   *  @returns false where it is about something else now and began anew */
  follow(former: RuleWatch): boolean {
    const [a, b] = [this.numbered.rule, former.numbered.rule];
    if (a.cause !== b.cause || a.time !== b.time || a.active !== b.active) return false;
    if (this.watch && !this.watch.follow(former.watch!)) return false;
    const { holds, sinceNs, turns, inForce, missed, lastMs } = former;
    Object.assign(this, { holds, sinceNs, turns, inForce, missed, lastMs });
    this.fired = a.often === b.often ? former.fired : 0;
    return true;
  }

  /** It goes on holding, by other deeds than the former rule: what they let go of is given back, what they set otherwise is set. */
  heldOtherwise(former: RuleWatch, atNs: bigint): RuleCall[] {
    if (!this.holds) return [];
    const [now, then] = [this.lasting(), former.lasting()];
    const back = then.filter((d) => now.every((n) => n.output !== d.output));
    const set = now.filter((n) => then.every((d) => JSON.stringify(d) !== JSON.stringify(n)));
    return [
      ...(back.length ? [{ deeds: back, what: 'take back' as const, atNs }] : []),
      ...(set.length ? [{ deeds: set, what: 'do' as const, atNs }] : []),
    ];
  }

  /** @param inForce false outside the time the rule is for @param takeStartNs begin of the running take, for rules that count from there */
  step(inForce: boolean, nowNs: bigint, takeStartNs: bigint | null): RuleCall[] {
    const turns = this.watch ? this.watch.step() : this.clockTurns(inForce, nowNs, takeStartNs);
    const begins = inForce && !this.inForce;
    this.inForce = inForce;
    if (!inForce) {
      this.missed = [...this.missed, ...turns].filter((t) => t.atNs + LOOK_BACK_NS > nowNs);
      const held = this.holds;
      this.holds = false;
      return held ? [{ deeds: this.lasting(), what: 'take back', atNs: nowNs }] : [];
    }
    const all = begins ? [...this.alreadyTurned(takeStartNs ?? nowNs), ...turns] : turns;
    return all.flatMap(({ atNs, on }) => (on ? this.fire(atNs) : this.release(atNs)));
  }

  /** What a rule that comes into force finds: the turns since then, and before them what held already, unless it waits for a change. */
  private alreadyTurned(sinceNs: bigint): Turn[] {
    const { watch, missed } = this;
    this.missed = [];
    if (!watch) return [];
    const since = missed.filter((t) => t.atNs >= sinceNs);
    // As it stood at the begin: what it is now, less the turns since then.
    const held = since.length > 0 ? !since[0].on : watch.heldBeforeStep;
    return held && !watch.waitsForChange ? [{ atNs: sinceNs, on: true }, ...since] : since;
  }

  private clockTurns(inForce: boolean, nowNs: bigint, takeStartNs: bigint | null): Turn[] {
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

  /** What it holds is given back: it is taken away, switched off or about something else now. */
  letGo = (atNs: bigint): RuleCall[] => this.release(atNs);

  private lasting = () =>
    this.numbered.rule.deeds.filter(
      (d) => (d.do === 'set' || d.do === 'move') && d.after === 'return it to rest',
    );
}
