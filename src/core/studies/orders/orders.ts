import { z } from 'zod';
import { badInput } from '../../errors';
import type { Figure, FigureAxis, LineMark } from '../../figures/figure';
import { stackedLines } from '../../figures/stacked';
import { orderBlocks, synchronousMean } from '../../rotation/orders';
import { shaftOfPulses, type Shaft } from '../../rotation/shaft';
import { rateHz, sampleS, type Sampled } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { CrossingFinder } from '../../signal/crossings';
import { WINDOW_NAMES } from '../../spectrum/windows';
import { numeric } from '../classes';
import { shaftOfSpeedChannel } from '../shaft';
import { DRAWN_AS } from '../spectral';
import { readSpan, spanFields, spanOf } from '../span';
import type { CancelSignal, Progress, StudyKind, StudyResult } from '../study';
import { readWhole } from '../whole';

const REVOLUTIONS = [1, 2, 4, 8, 16, 32] as const;

const OVER = ['time', 'speed'] as const;

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  speed: field(z.string().nullable(), {
    label: 'Speed',
    editor: 'channel',
    none: 'no speed channel',
    help: 'A channel in rpm; its integral is the angle.',
  }),
  pulses: field(z.string().nullable(), {
    label: 'Pulses',
    editor: 'channel',
    none: 'no pulses',
    help: 'A channel with pulses of the shaft counts before the speed: it tells the angle itself.',
  }),
  perTurn: field(z.number().int().min(1).max(10_000), {
    label: 'Pulses a revolution',
    editor: 'number',
    unit: 'pulses',
  }),
  level: field(z.number().min(-1e12).max(1e12), {
    label: 'Level of the pulses',
    editor: 'number',
    unitFrom: 'pulses',
  }),
  ...spanFields,
  highest: field(z.number().min(1).max(500), { label: 'Highest order', editor: 'number' }),
  revolutions: field(z.union(REVOLUTIONS.map((n) => z.literal(n))), {
    label: 'Revolutions a block',
    editor: 'choice',
    options: REVOLUTIONS,
    help: 'Orders lie one part of this apart; the speed should change little within a block.',
  }),
  window: field(z.enum(WINDOW_NAMES), { label: 'Window', editor: 'choice', options: WINDOW_NAMES }),
  over: field(z.enum(OVER), { label: 'Over', editor: 'choice', options: OVER }),
  drawn: field(z.enum(DRAWN_AS), { label: 'Drawn as', editor: 'choice', options: DRAWN_AS }),
  cuts: field(z.string().trim().max(100), {
    label: 'Cuts',
    editor: 'text',
    none: 'none',
    help: 'Orders that are drawn over the speed, such as 1, 2, 3.',
  }),
});
type Settings = z.infer<typeof schema>;

/** Order spectra of one channel, cuts of single orders over the speed, and the mean over one revolution. */
export const orders: StudyKind<typeof schema> = {
  kind: 'orders',
  title: 'Orders',
  purpose: 'What turns with the shaft, over its speed.',
  method: [
    {
      says: 'Angle from the edges of the pulses (or the integral of the speed), samples at even steps of angle, then FFT over whole revolutions: line k stands for k/revolutions orders.',
      source: 'Fyfe and Munck, Mech. Syst. Signal Process. 11(2) (1997)',
    },
    {
      says: 'Synchronous mean: mean over revolutions at each angle; what does not turn with the shaft falls by 1/√revolutions.',
      source: 'Braun (1975)',
    },
  ],
  asks: 'What follows what?',
  sketch: { lines: [[0.1, 0.15, 0.95, 0.15, 0.1, 0.12, 0.5, 0.12, 0.1]], behind: [0.35, 0.4, 0.8, 0.4, 0.35, 0.37, 0.6, 0.37, 0.35] }, // prettier-ignore
  sentence: {
    schema,
    template: (s) =>
      `The orders of {channel} up to {highest}, the angle from {pulses}${s.pulses ? ', {perTurn} a revolution, at {level}' : ' but {speed}'}; from {from} to {to}, by blocks of {revolutions} revolutions with a {window} window; over {over} as a {drawn}, cuts at {cuts}.`,
  },
  defaults: { channel: '', speed: null, pulses: null, perTurn: 1, level: 2.5, from: 0, to: null, highest: 12, revolutions: 4, window: 'Hann', over: 'time', drawn: 'heat picture', cuts: '1, 2, 3' }, // prettier-ignore
  roles: [
    { key: 'channel', takes: 'one' },
    { key: 'speed', takes: 'one', unit: 'rpm', optional: true },
    { key: 'pulses', takes: 'one', optional: true, byHand: true },
  ],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const wanted = cutsOf(settings);
    const span = spanOf(input, settings);
    const shaft = shaftOf(take.signals, settings, (s) => progress(s * 0.2), signal);
    const values = readWhole(input, span, (s) => progress(0.2 + s * 0.2), signal);
    const start = sampleS(input, span.first);
    const { blocks, skipped, perRevolution } = orderBlocks(
      values,
      start,
      rateHz(input),
      shaft,
      { highest: settings.highest, revolutions: settings.revolutions, overlap: settings.revolutions > 1 ? 0.5 : 0, window: settings.window }, // prettier-ignore
      (share) => progress(0.4 + Math.min(1, share) * 0.5),
    );
    if (blocks.length === 0) throw badInput('span', 'a gap in every block', 'Choose a span without gaps.');
    const lines = blocks[0].amplitude.length;
    const resolution = 1 / settings.revolutions;
    const bySpeed = [...blocks].sort((a, b) => a.rpm - b.rpm);
    const bySomething = settings.over === 'speed' ? bySpeed : blocks;
    const placeOf = (b: (typeof blocks)[number]) => (settings.over === 'speed' ? b.rpm : b.atS);
    const columns = Math.min(blocks.length, 400);
    const group = Math.ceil(blocks.length / columns);
    const rows = Math.ceil(blocks.length / group);
    const z = new Float32Array(rows * (lines - 1)).fill(NaN);
    bySomething.forEach((b, i) => {
      const row = Math.floor(i / group);
      for (let k = 1; k < lines; k++) {
        const at = row * (lines - 1) + k - 1;
        if (!(z[at] >= b.amplitude[k])) z[at] = b.amplitude[k];
      }
    });
    const places = bySomething.map(placeOf);
    const edges = Float64Array.from({ length: rows + 1 }, (_, k) => {
      const here = places[Math.min(places.length - 1, k * group)];
      const before = places[Math.max(0, k * group - 1)] ?? here;
      return k === 0 ? here - (places.length > 1 ? (places[1] - here) / 2 : 0.5) : k === rows ? places[places.length - 1] + (here - before || 0.5) : (here + before) / 2; // prettier-ignore
    });
    for (let k = 1; k < edges.length; k++) if (!(edges[k] > edges[k - 1])) edges[k] = edges[k - 1] + 1e-6;
    const cut = (order: number, k: number): LineMark => {
      const line = Math.round(order * settings.revolutions);
      return { mark: 'line', name: `Order ${order}`, unit: input.unit, colour: k, x: Float64Array.from(bySpeed, (b) => b.rpm), y: Float64Array.from(bySpeed, (b) => b.amplitude[line]) }; // prettier-ignore
    };
    const { mean, revolutions } = synchronousMean(values, start, rateHz(input), shaft, 360);
    const strongest = { order: resolution, rpm: 0, amplitude: -1 };
    for (const b of blocks)
      for (let k = settings.revolutions > 2 ? 2 : 1; k < lines; k++)
        if (b.amplitude[k] > strongest.amplitude)
          Object.assign(strongest, { order: k * resolution, rpm: b.rpm, amplitude: b.amplitude[k] });
    const across = { label: 'Order', unit: '1', scale: 'linear' as const };
    const upright: FigureAxis =
      settings.over === 'speed'
        ? { label: 'Speed', unit: 'rpm', scale: 'linear' }
        : { label: 'Time', unit: 's', scale: 'time' };
    const title = `Orders over ${settings.over}`;
    const picture: Figure =
      settings.drawn === 'stack of lines'
        ? stackedLines(
            title,
            { axis: across, places: { from: resolution, step: resolution, length: lines - 1 } },
            upright,
            bySomething.map((b) => ({ at: placeOf(b), values: b.amplitude.subarray(1) })),
            input,
          )
        : {
            title,
            x: across,
            y: upright,
            marks: [
              {
                mark: 'heat',
                name: 'Amplitude',
                unit: input.unit,
                x: { from: resolution / 2, step: resolution, length: lines },
                y: edges,
                z,
                logarithmic: true,
              },
            ],
          };
    return {
      findings: [
        {
          label: 'Strongest order',
          value: strongest.order,
          unit: '1',
          note: `${Number(strongest.amplitude.toPrecision(3))} ${input.unit} peak at ${Number(strongest.rpm.toPrecision(4))} rpm`,
        },
        {
          label: 'Revolutions',
          value: revolutions,
          unit: '1',
          note: `${blocks.length} blocks, ${perRevolution} samples a revolution`,
        },
        {
          label: 'Speed',
          value: bySpeed[0].rpm,
          unit: 'rpm',
          note: `to ${Number(bySpeed[bySpeed.length - 1].rpm.toPrecision(4))} rpm`,
        },
        ...(skipped ? [{ label: 'Blocks with gaps', value: skipped, unit: '1', note: 'left out' }] : []),
      ],
      figures: [
        picture,
        ...(wanted.length
          ? [
              {
                title: 'Cuts over the speed',
                x: { label: 'Speed', unit: 'rpm', scale: 'linear' as const },
                y: { label: 'Amplitude', unit: input.unit, scale: 'linear' as const, min: 0 },
                marks: wanted.map(cut),
              },
            ]
          : []),
        {
          title: 'Mean over one revolution',
          x: { label: 'Angle', unit: 'deg', scale: 'linear', min: 0, max: 360 },
          y: { label: input.name, unit: input.unit, scale: 'linear' },
          marks: [
            {
              mark: 'line',
              name: input.name,
              unit: input.unit,
              colour: input.colour,
              x: { from: 0, step: 1, length: 360 },
              y: mean,
            },
          ],
        },
      ],
      tables: [
        {
          title: 'Cuts',
          columns: [
            numeric('Time', 's'),
            numeric('Speed', 'rpm'),
            ...wanted.flatMap((o) => [numeric(`Order ${o}`, input.unit), numeric('phase', 'deg')]),
          ],
          rows: blocks.map((b) => [
            b.atS,
            b.rpm,
            ...wanted.flatMap((o) => {
              const k = Math.round(o * settings.revolutions);
              return [b.amplitude[k], (b.phase[k] * 180) / Math.PI];
            }),
          ]),
        },
      ],
    };
  },
};

/** @throws `bad_input` */
function cutsOf({ cuts, highest, revolutions }: Settings): number[] {
  const list = cuts
    .split(/[,;\s]+/)
    .filter(Boolean)
    .map(Number);
  const odd = list.find(
    (o) => !(o > 0 && o <= highest) || Math.abs(o * revolutions - Math.round(o * revolutions)) > 1e-6,
  );
  if (odd !== undefined)
    throw badInput(
      'cuts',
      cuts,
      `Orders up to ${highest} that lie ${1 / revolutions} apart, such as 1, 2, 3.`,
    );
  return [...new Set(list)].slice(0, 8);
}

/** The shaft by its pulses, else by its speed. @throws `bad_input` where there is neither */
function shaftOf(
  signals: Record<string, Sampled[]>,
  settings: Settings,
  progress: Progress,
  signal: CancelSignal,
): Shaft {
  const [pulses] = signals.pulses ?? [];
  const [speed] = signals.speed ?? [];
  if (pulses) {
    const { first, end } = spanOf(pulses, settings);
    const found: number[] = [];
    // A fifth of the distance to the extremes would need them first: a hundredth of the level keeps rounding off.
    const finder = new CrossingFinder(settings.level, Math.abs(settings.level) / 100, 'rising');
    readSpan(pulses, first, end, (block) => finder.push(block, (at) => void found.push(sampleS(pulses, first + at))), progress, signal); // prettier-ignore
    if (found.length < 2)
      throw badInput('pulses', `${found.length} of ${pulses.name}`, `Its signal has to pass ${settings.level} ${pulses.unit} at least twice: check the level, or choose a longer span.`); // prettier-ignore
    return shaftOfPulses(found, settings.perTurn);
  }
  if (!speed)
    throw badInput('speed', 'none', 'Choose a speed channel in rpm, or a channel with pulses of the shaft.');
  return shaftOfSpeedChannel(speed, settings, progress, signal);
}
