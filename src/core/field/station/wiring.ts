import type { Measure, Programme } from './programme';
import { stationModel, type Way } from './model';

/** A wire from a sensor to a post of a terminal. */
export interface Wire {
  from: string;
  to: string;
}
/** How one sensor is wired. */
export interface Wiring {
  terminal: string;
  names: string[];
  wires: Wire[];
  note: string;
}
const WIRES: Record<Way, { wires: [from: string, post: string][]; note: string }> = {
  volts: { wires: [['signal +', '+'], ['signal −', '−'], ['screen', 'G']], note: 'A signal that floats needs a bridge from − to G, the ground.' },
  thermocouple: { wires: [['positive leg', '+'], ['negative leg', '−']], note: 'Legs that are the wrong way round fall when the junction is warmed.' },
  bridge: { wires: [['signal +', '+'], ['signal −', '−'], ['supply +', 'X'], ['supply −', 'G']], note: 'The supply is on only while it is measured.' },
  resistance: { wires: [['leg a', '+'], ['leg b, sense', '−'], ['leg b, current', 'G'], ['current', 'X']], note: 'Four wires: what the cable adds is not measured.' },
  pulses: { wires: [['contact', '+'], ['return', 'G']], note: 'A dry contact, or pulses of 5 V at most.' },
  serial: { wires: [['transmit', 'R'], ['receive', 'T'], ['ground', 'G']], note: 'Its transmit goes to receive, and the other way round.' },
}; // prettier-ignore

/** Terminals of a programme that are wired, in the order of the strip. Words of one serial sensor share theirs. */
export function wiringOf({ measures }: Pick<Programme, 'measures'>): Wiring[] {
  const by = new Map<string, Measure[]>();
  for (const m of measures) if (m.terminal) by.set(m.terminal, [...(by.get(m.terminal) ?? []), m]);
  return [...by]
    .sort(
      ([a], [b]) =>
        'UPSK'.indexOf(a[0]) - 'UPSK'.indexOf(b[0]) || a.localeCompare(b, undefined, { numeric: true }),
    ) // prettier-ignore
    .map(([terminal, own]) => ({
      terminal,
      names: own.map((m) => m.name),
      wires: WIRES[own[0].way].wires.map(([from, to]) => ({ from, to })),
      note: WIRES[own[0].way].note,
    }));
}
/** Posts of a terminal, in their order. */
export const postsOf = (terminal: string): string[] =>
  ({ U: ['+', '−', 'X', 'G'], P: ['+', 'G'], S: ['R', 'T', 'G'] })[terminal[0]] ?? ['+', 'G'];
/** Terminals of a model that nothing is wired to, in the order of its strip. */
export const freeOf = ({ model, measures }: Pick<Programme, 'model' | 'measures'>): string[] =>
  Object.entries(stationModel(model)?.terminals ?? {})
    .flatMap(([letter, n]) =>
      letter === 'K' ? [] : Array.from({ length: n }, (_, k) => `${letter}${k + 1}`),
    )
    .filter((terminal) => !measures.some((m) => m.terminal === terminal));
