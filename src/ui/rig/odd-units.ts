import type { Channel } from '$contract/channel';
import { commonOf } from '$contract/channel';
import type { UnitDescription } from '$contract/unit';

/** A channel that was made of a signal whose description has something for a unit that is none. */
export interface OddUnit {
  channelId: string;
  name: string;
  /** As the description has it. */
  written: string;
}

/** Channels that are read as bare numbers though their signals are described in something: what it is has to be asked. */
export function oddUnits(made: readonly Channel[], { modules }: Pick<UnitDescription, 'modules'>): OddUnit[] {
  const written = new Map(
    modules.flatMap((m) => m.terminals.map((t) => [t.id, t.sheet?.unit?.trim() ?? ''] as const)),
  );
  return made.flatMap((c) => {
    const text = written.get(c.wire?.terminal ?? '') ?? '';
    const odd = commonOf(c).unit === '1' && text !== '' && text !== '1';
    return odd ? [{ channelId: c.id, name: c.name, written: text }] : [];
  });
}
