import type { ChannelState } from './engine-status';
import type { Probe } from './unit';
import { channelKind, commonOf, conversionOf, type Channel } from './channel';
import { needsProof } from './proof';
import { compileConversion } from '$core/conversion/conversion';

/** A sign of wrong wiring, with what to check. */
export interface Clue {
  what: string;
  check: string;
}

/** What is known of an input while its wiring is judged. */
export interface Watched {
  channel: Channel | null;
  probe: Probe;
  state: ChannelState;
  /** Means of its raw reading over the last minute, oldest first, evenly spaced. */
  recent: ArrayLike<number>;
  /** The same of other thermocouples on its module. */
  neighbours: { name: string; recent: ArrayLike<number> }[];
}

const POWER = 'Take the supply off before you touch it.';

/** Change from the first to the last quarter of a trail. */
function rise(recent: ArrayLike<number>): number {
  const n = recent.length;
  if (n < 8) return 0;
  const quarter = n >> 2;
  let [first, last] = [0, 0];
  for (let i = 0; i < quarter; i++) {
    first += recent[i];
    last += recent[n - 1 - i];
  }
  return (last - first) / quarter;
}

/** How much a trail moves from sample to sample, rms. */
function jitter(recent: ArrayLike<number>): number {
  let sum = 0;
  for (let i = 1; i < recent.length; i++) sum += (recent[i] - recent[i - 1]) ** 2;
  return Math.sqrt(sum / Math.max(1, recent.length - 1));
}

/** Signs of wrong wiring at an input, the surest first; none where all looks well. */
export function wiringClues({ channel, probe, state, recent, neighbours }: Watched): Clue[] {
  const clues: Clue[] = [];
  const add = (what: string, check: string) => clues.push({ what, check });
  if (probe.trouble === 'open' || state === 'open')
    add(
      'The circuit is open between the terminal and the sensor.',
      `Look at the clamp first: conductor, not insulation; then at the cable and the sensor itself. ${POWER}`,
    );
  if (probe.trouble === 'short' || state === 'short')
    add(
      `The sensor’s supply is shorted${probe.biasV === undefined ? '' : `: its bias is ${probe.biasV.toFixed(1)} V instead of 8 to 13 V`}.`,
      'Look for a crushed cable, a strand across the plug, water in the connector.',
    );
  if (probe.trouble === 'silent' || state === 'silent')
    add(
      'Nothing arrives any more.',
      'Look at what the unit heard last; at the sender; at the name, place or address of this value.',
    );
  if (clues.length) return clues;
  if (probe.remark && !channel) add(probe.remark, 'Wire a sensor to it, or leave it free.');
  else if (probe.remark && /floats/.test(probe.remark))
    add(
      'The input floats: it wanders and picks up the mains.',
      'Nothing holds it: look whether both wires are on this terminal, not on the one beside it.',
    );
  if (probe.biasV !== undefined && probe.biasV > 20)
    add(
      `The bias of the sensor’s supply is ${probe.biasV.toFixed(1)} V: it does not draw its current.`,
      'Nothing is plugged in, the cable is broken, or it is a sensor without an amplifier.',
    );
  if (!channel) return clues;
  const { range } = commonOf(channel);
  const kind = channelKind(channel.kind);
  if (kind.needsJunction) {
    const own = rise(recent);
    const other = neighbours.find(
      (n) => Math.abs(rise(n.recent)) > 0.02 && rise(n.recent) * own < 0 && Math.abs(own) > 0.02,
    );
    if (other)
      add(
        `It ${own < 0 ? 'falls while' : 'rises while'} ${other.name} ${own < 0 ? 'rises' : 'falls'}: its wires look swapped.`,
        'Warm the tip with a hand: the reading has to rise. If it falls, change + and −, also at the extension cable’s plugs.',
      );
  }
  if (kind.bridge && Math.abs(probe.mean) > 8)
    add(
      `The bridge is ${probe.mean.toFixed(1)} mV/V out of balance, far beyond what a load gives.`,
      `Compare the resistance and arrangement set here with the gauge; then look for a wire on the wrong contact. ${POWER}`,
    );
  if (kind.works && probe.mean < kind.works.above)
    add(
      `The loop carries ${probe.mean.toFixed(2)} mA, less than the ${kind.works.above} mA of a working transmitter.`,
      'Look at the supply of the loop and for a broken or reversed wire.',
    );
  else if (kind.works && probe.mean > kind.works.below)
    add(
      `The loop carries ${probe.mean.toFixed(2)} mA, more than a working transmitter gives.`,
      'Look at the transmitter: it signals a fault, or is driven past its range.',
    );
  if (recent.length >= 200 && jitter(recent) === 0 && needsProof(channel))
    add(
      'The reading has not moved by a single step for a while.',
      'A living input always shows some noise: look whether the unit still measures, and for a short at the terminal.',
    );
  if (range.min >= 0 && clues.length === 0 && kind.pair) {
    const value = new Float64Array(1);
    compileConversion(conversionOf(channel))([probe.mean], value, 1);
    if (value[0] < -0.05 * range.max)
      add(
        'It reads below zero, where nothing is expected: the signal pair looks swapped.',
        'Put some load on and see which way it goes; then change the two signal wires.',
      );
  }
  return clues;
}
