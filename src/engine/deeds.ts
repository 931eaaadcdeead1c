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
  /** Brings one output to rest at once; whether it got there is noted. */
  rest(channelId: string, says: string): void;
  /** @throws `conflict` when no take waits */
  start(says: string): void;
  /** @throws `conflict` when none is recorded */
  end(): void;
  setDetail(full: boolean): boolean;
  /** @param atNs the moment it belongs to */
  note(kind: string, says: string, by: string, atNs?: bigint): void;
  /** @param atNs instant of the readings that go along */
  call(address: string, body: object, atNs: bigint): void;
}

const FARRIER = 'Farrier';

/** Does what a rule asks for, in its order; what cannot be done is noted, the rest is done. Marks and notes stand at the sample that made
 *  the rule fire. */
export function carryOut(call: RuleCall, { rule, id, says }: NumberedRule, world: DeedWorld): void {
  if (call.what === 'do') world.note('rule', `Rule fired: ${says}`, FARRIER, call.atNs);
  for (const deed of call.deeds) {
    try {
      if (call.what === 'do') doIt(deed, says, id, call.atNs, world);
      else if (deed.output) world.rest(deed.output, says);
    } catch (error) {
      const where = deed.output ? (world.signalOf(deed.output)?.name ?? 'output') : rule.deeds[0].do;
      world.note('trouble', asFarrierError(error, where).message, FARRIER);
    }
  }
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
      if (deed.output) world.rest(deed.output, says);
      return;
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
      return world.note('mark', deed.says || says, FARRIER, atNs);
    case 'raise an alarm':
      return world.note('alarm', deed.says || says, `rule ${id}`, atNs);
    case 'write into the logbook':
      return world.note('note', deed.says || says, FARRIER, atNs);
    case 'call an address':
      if (deed.address)
        world.call(deed.address, { rule: says, at: new Date(Number(atNs / 1_000_000n)).toISOString() }, atNs);
  }
}
