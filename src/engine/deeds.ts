import { asFarrierError } from '$core/errors';
import type { NumberedRule } from '$contract/engine';
import type { Deed } from '$contract/rule';
import type { RuleCall } from './rules';
import type { Signal } from './signals';

/** What a rule can reach in the pipeline. */
export interface DeedWorld {
  signalOf(channelId: string): Signal | undefined;
  setOutput(channelId: string, value: number, withinS?: number): void;
  toRest(): void;
  /** @throws `conflict` when no take waits */
  start(says: string): void;
  /** @throws `conflict` when none is recorded */
  end(): void;
  setDetail(full: boolean): boolean;
  note(kind: string, says: string, by: string): void;
  call(address: string, body: unknown): void;
}

const FARRIER = 'Farrier';

/** Does what a rule asks for, in its order; what cannot be done is noted, the rest is done. */
export function carryOut(call: RuleCall, { rule, id, says }: NumberedRule, world: DeedWorld): void {
  if (call.what === 'do') world.note('rule', `Rule fired: ${says}`, FARRIER);
  for (const deed of call.deeds) {
    try {
      if (call.what === 'do') doIt(deed, says, id, call.atNs, world);
      else rest(deed, world, says);
    } catch (error) {
      const where = deed.output ? (world.signalOf(deed.output)?.name ?? 'output') : rule.deeds[0].do;
      world.note('trouble', asFarrierError(error, where).message, FARRIER);
    }
  }
}

function rest(deed: Deed, world: DeedWorld, says: string): void {
  const signal = world.signalOf(deed.output ?? '');
  if (!signal) return;
  const target = signal.channel!.settings.rest as number;
  world.setOutput(deed.output!, target);
  world.note('rule', `${signal.name} returned to rest, ${target} ${signal.unit}: ${says}`, FARRIER);
}

function doIt(deed: Deed, says: string, id: string, atNs: bigint, world: DeedWorld): void {
  switch (deed.do) {
    case 'set':
      if (deed.output) world.setOutput(deed.output, deed.value);
      return;
    case 'move':
      if (deed.output) world.setOutput(deed.output, deed.value, deed.within);
      return;
    case 'bring to rest':
      return rest(deed, world, says);
    case 'bring all outputs to rest':
      return world.toRest();
    case 'start the take':
      return world.start(`Started by the rule: ${says}`);
    case 'end the take':
      return world.end();
    case 'record at full rate from now on':
      return void world.setDetail(true);
    case 'record the log only from now on':
      return void world.setDetail(false);
    case 'mark':
      return world.note('mark', deed.says || says, FARRIER);
    case 'raise an alarm':
      return world.note('alarm', deed.says || says, `rule ${id}`);
    case 'write into the logbook':
      return world.note('note', deed.says || says, FARRIER);
    case 'call an address':
      if (deed.address)
        world.call(deed.address, { rule: says, at: new Date(Number(atNs / 1_000_000n)).toISOString() });
  }
}
