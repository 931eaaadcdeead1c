import { field, type Sentence } from '$core/sentence/sentence';
import { z } from 'zod';
import type { BridgeFinding } from './calibration-record';

/** How bridges are read and judged. */
export const BridgeRun = z.strictObject({
  seconds: field(z.number('Give a number.').min(0.5, 'At least 0.5 s.').max(30, 'At most 30 s.'), {
    label: 'Each for',
    editor: 'number',
    unit: 's',
  }),
  tolerance: field(z.number('Give a number.').min(0.05, 'At least 0.05 %.').max(20, 'At most 20 %.'), {
    label: 'Tolerance',
    editor: 'number',
    unit: '%',
    help: 'How far the step may be from what resistance, gauge factor and shunt give.',
  }),
  still: field(z.number('Give a number.').min(0.01, 'At least 0.01 %.').max(20, 'At most 20 %.'), {
    label: 'At rest within',
    editor: 'number',
    unit: '% of the range',
    help: 'A bridge whose reading spreads more while it should rest is touched or loaded.',
  }),
});
export type BridgeRun = z.infer<typeof BridgeRun>;
export const bridgeSentence: Sentence<typeof BridgeRun> = {
  schema: BridgeRun,
  template: () =>
    'Read zero and shunt for {seconds} each, all bridges at once. A bridge rests if it spreads less than {still}; it is right if its step is within {tolerance} of what the circuit gives.',
};
export const USUAL_BRIDGE_RUN: BridgeRun = { seconds: 2, tolerance: 1, still: 0.5 };

/** A bridge at rest or under its shunt, raw. */
export interface BridgeReading {
  mean: number;
  noise: number;
  samples: number;
}
/** What its module can do: the resistor it lays across an arm, Ω. */
export interface ModuleShunt {
  ohm: number;
  arm: 1 | 2 | 3 | 4;
}

export interface BridgeRow {
  channelId: string;
  name: string;
  unit: string;
  finding: BridgeFinding;
  /** mV/V */
  zero: number;
  noise: number;
  /** Step under the shunt: measured and by the circuit, mV/V. */
  step: number;
  expectedStep: number;
  /** The same step as the channel reads it and as it should, in its unit. */
  value: number;
  expectedValue: number;
  /** Share by which the worse of both is off. */
  off: number;
  says: string;
}
