import { z } from 'zod';
import { classLabels, classOf, classesFor, countOf } from '../../counting/classes';
import { badInput } from '../../errors';
import { BELOW_KNEE, MEAN_CORRECTIONS, amplitudeOf, atZeroMean, cyclesToFailure, shifted, slopeBelow, type EnduranceLine } from '../../life/line'; // prettier-ignore
import { rateHz } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import {
  CLASS_DEFAULTS,
  classBars,
  classFields,
  classPhrase,
  extremesOf,
  numeric,
  words,
  wishOf,
} from '../classes';
import { countCycles, cycleFields } from '../rainflow/cycles';
import { spanFields, spanOf } from '../span';
import type { Finding, StudyKind, StudyResult } from '../study';

const above0 = (what: string) => z.number(`Give ${what}.`).positive('Give a number above 0.').max(1e15);

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  ...cycleFields,
  ...classFields,
  knee: field(above0('an amplitude').nullable(), {
    label: 'Amplitude at the knee',
    editor: 'number',
    unitFrom: 'channel',
    none: 'the largest amplitude',
    help: 'Half the range at the knee of the line. Without one the largest amplitude that was counted stands there, so that takes can be compared, and nothing more.',
  }),
  cycles: field(above0('cycles'), { label: 'Cycles at the knee', editor: 'number', unit: 'cycles' }),
  slope: field(z.number().min(1, 'At least 1.').max(50, 'At most 50.'), {
    label: 'Slope above the knee',
    editor: 'number',
    help: 'The exponent k of N = cycles · (amplitude / knee)⁻ᵏ: 3 to 5 for welds and notched metal, 8 to 15 for fibre and smooth metal.',
  }),
  below: field(z.enum(BELOW_KNEE), { label: 'Below the knee', editor: 'choice', options: BELOW_KNEE, help: 'The slope 2k − 1 is Haibach’s; the same slope is the elementary rule.' }), // prettier-ignore
  scatter: field(z.number().min(1, 'At least 1.').max(1000), {
    label: 'Scatter',
    editor: 'number',
    help: 'Cycles that 10 % of specimens reach over those that 90 % reach; 1 for none.',
  }),
  survival: field(z.number().min(0.1, 'At least 0.1 %.').max(99.999, 'At most 99.999 %.'), {
    label: 'Survival',
    editor: 'number',
    unit: '%',
    help: 'The line is that of 50 %; with a scatter it is moved to this share of specimens that survive.',
  }),
  mean: field(z.enum(MEAN_CORRECTIONS), {
    label: 'Mean correction',
    editor: 'choice',
    options: MEAN_CORRECTIONS,
    help: 'What the mean of a cycle adds: Goodman a / (1 − m/R), Gerber a / (1 − (m/R)²), mean sensitivity a + M · m.',
  }),
  strength: field(above0('a strength').nullable(), {
    label: 'Strength R',
    editor: 'number',
    unitFrom: 'channel',
    none: 'not given',
  }),
  sensitivity: field(z.number().min(0).max(2), { label: 'Mean sensitivity M', editor: 'number' }),
  equal: field(above0('a number of cycles'), {
    label: 'Cycles of equal damage',
    editor: 'number',
    unit: 'cycles',
    help: 'The constant range that does the same damage in so many cycles.',
  }),
  shares: field(z.string().trim().max(400), {
    label: 'Shares of the takes',
    editor: 'text',
    none: 'as long as they were recorded',
    help: 'With several takes, the share of time each has in the duty cycle, in their order: 60, 30, 10.',
  }),
});
type Settings = z.infer<typeof schema>;

/** Linear damage sum (Palmgren, Miner) of rainflow cycles by a line with two slopes (Haibach), and the life at this duty; takes are mixed by shares of time. */
export const damage: StudyKind<typeof schema> = {
  kind: 'damage',
  title: 'Damage and life',
  purpose: 'Miner’s sum, equal range, takes mixed by shares.',
  method: [
    {
      says: 'Miner’s sum D = Σ nᵢ/Nᵢ with N = N_D·(S/S_D)^(−k), another slope below the knee; life = duty / D.',
      source: 'Palmgren (1924), Miner (1945); below the knee after Haibach',
    },
    {
      says: 'Equivalent range at N₀ cycles: S_eq = (Σ nᵢ·Sᵢ^k / N₀)^(1/k).',
      source: 'same',
    },
    {
      says: 'Range at mean zero: Goodman S/(1 − S_m/R_m), Gerber S/(1 − (S_m/R_m)²), or S_a + M·S_m by the mean sensitivity.',
      source: 'Goodman (1899); Gerber (1874); FKM guideline',
    },
  ],
  asks: 'How much life does it use?',
  sketch: {
    lines: [[1, 0.85, 0.7, 0.55, 0.48, 0.41, 0.34]],
    points: [
      [0.08, 0.42],
      [0.25, 0.34],
      [0.45, 0.24],
      [0.65, 0.15],
    ],
  },
  sentence: {
    schema,
    template: (s) =>
      `Damage of {channel} from {from} to {to}, counted by rainflow, dropping ranges up to {hysteresis}, the residue {residue}, ${classPhrase(s)}. The line has its knee at {knee} and {cycles}, slope {slope}, below it {below}; scatter {scatter}${
        s.scatter > 1 ? ', for {survival} survival' : ''
      }. Mean correction: {mean}${
        s.mean === 'none'
          ? ''
          : s.mean === 'mean sensitivity'
            ? ' {sensitivity}'
            : ' with the strength {strength}'
      }. Equal damage in {equal}; takes mixed {shares}.`,
  },
  defaults: {
    channel: '',
    from: 0,
    to: null,
    hysteresis: null,
    residue: 'counted as halves',
    ...CLASS_DEFAULTS,
    knee: null,
    cycles: 2e6,
    slope: 5,
    below: 'the slope 2k − 1',
    scatter: 1,
    survival: 50,
    mean: 'none',
    strength: null,
    sensitivity: 0.3,
    equal: 1e6,
    shares: '', // prettier-ignore
  },
  roles: [{ key: 'channel', takes: 'one' }],
  takes: { least: 1, most: 50 },
  run(takes, settings, progress, signal): StudyResult {
    if ((settings.mean === 'Goodman' || settings.mean === 'Gerber') && settings.strength === null)
      throw badInput(
        'strength',
        'none',
        `${settings.mean} needs the strength that a mean alone would break at: give it in the sentence.`,
      );
    const inputs = takes.map((take) => ({ name: take.name, input: take.signals.channel[0] }));
    const { unit } = inputs[0].input;
    const odd = inputs.find((i) => i.input.unit !== unit);
    if (odd)
      throw badInput(
        'takes',
        `${odd.input.name} of ${odd.name} in ${odd.input.unit}`,
        `The first is in ${unit}: choose takes of one unit.`,
      );
    const spans = inputs.map(({ input }) => spanOf(input, settings));
    const seconds = inputs.map(({ input }, k) => (spans[k].end - spans[k].first) / rateHz(input));
    const shares = sharesOf(settings.shares, seconds);
    const part = (k: number, from: number, to: number) => (share: number) =>
      progress(from + ((k + share) / inputs.length) * (to - from));

    let [least, most, widest] = [Infinity, -Infinity, 0];
    inputs.forEach(({ input }, k) => {
      const [low, high] = extremesOf(input, spans[k].first, spans[k].end, part(k, 0, 0.3), signal);
      [least, most] = [Math.min(least, low), Math.max(most, high)];
      if (high > low) widest = Math.max(widest, high - low);
    });
    const classes = classesFor(wishOf(settings), 0, most - least);
    const hysteresis = settings.hysteresis ?? classes.width;
    const knee = settings.knee ?? widest / 2;
    if (!(knee > 0))
      throw badInput(
        'channel',
        `${inputs[0].input.name}, constant`,
        'It has no cycle: choose a span in which it changes.',
      );
    const mid: EnduranceLine = { amplitude: knee, cycles: settings.cycles, slope: settings.slope, slopeBelow: slopeBelow(settings.slope, settings.below) }; // prettier-ignore
    const line = shifted(mid, settings.survival / 100, settings.scatter);
    const correction = { strength: settings.strength ?? 1, sensitivity: settings.sensitivity };

    const n = countOf(classes);
    const cyclesIn = new Float64Array(n);
    const damageIn = new Float64Array(n);
    let [cycles, missing, beyondStrength] = [0, 0, 0];
    const each = inputs.map(({ input }, k) => {
      // Shares of one second of the duty cycle.
      const weight = shares[k] / seconds[k];
      let own = 0;
      let counted = 0;
      const outcome = countCycles(
        input,
        spans[k],
        { hysteresis, residue: settings.residue },
        (from, to, _a, _b, count) => {
          const range = Math.abs(to - from);
          const amplitude = atZeroMean(settings.mean, range / 2, (from + to) / 2, correction);
          if (amplitude === Infinity) beyondStrength += count;
          const done = count / cyclesToFailure(line, amplitude);
          own += done;
          counted += count;
          const c = classOf(classes, range);
          if (!(c >= 0 && c < n)) return;
          cyclesIn[c] += count * weight;
          damageIn[c] += done * weight;
        },
        part(k, 0.3, 1),
        signal,
      );
      missing += outcome.missing;
      cycles += counted * weight;
      return { own, counted, rate: own * weight };
    });
    if (beyondStrength > 0)
      throw badInput('strength', settings.strength, `The mean of ${beyondStrength} cycles reaches it: by ${settings.mean} a single one would break it. Check the strength and the channel’s zero.`); // prettier-ignore

    // By second of the duty cycle; of a single take as recorded, of all its seconds.
    const perSecond = each.reduce((sum, e) => sum + e.rate, 0);
    const duty = seconds.reduce((a, b) => a + b, 0);
    const sum = perSecond * duty;
    const life = 1 / perSecond;
    const equal = 2 * amplitudeOf(line, sum, settings.equal);
    const labels = classLabels(classes, unit);
    const share = (k: number) => (perSecond > 0 ? (damageIn[k] / perSecond) * 100 : 0);
    const atPoint = (k: number) => (classes.edges[k] + classes.edges[k + 1]) / 2;
    const used = Array.from({ length: n }, (_, k) => k).filter((k) => cyclesIn[k] > 0);
    const relative = settings.knee === null;
    const findings: Finding[] = [
      {
        label: 'Damage of this duty',
        value: sum,
        unit: '1',
        note: relative
          ? 'against a line through the largest amplitude: for comparing only'
          : 'fails at 1 by Miner',
      },
      {
        label: 'It can be repeated',
        value: 1 / sum,
        unit: 'times',
        note: `${Number(duty.toPrecision(4))} s each`,
      },
      { label: 'Life at this duty', value: life / 3600, unit: 'h' },
      {
        label: 'Range of equal damage',
        value: equal,
        unit,
        note: `in ${settings.equal.toLocaleString('en')} cycles`,
      },
      {
        label: 'Cycles counted',
        value: cycles * duty,
        unit: '1',
        note: inputs.length > 1 ? 'in the mix' : undefined,
      },
      ...(missing > 0
        ? [{ label: 'Missing', value: missing, unit: '1', note: 'samples that were passed over' }]
        : []),
    ];
    const largest = atPoint(used.at(-1) ?? n - 1);
    return {
      findings,
      figures: [
        classBars('Share of the damage', classes, unit, 'Range', { label: 'Share of the damage', unit: '%', scale: 'linear', min: 0 }, { name: inputs[0].input.name, values: Float64Array.from({ length: n }, (_, k) => share(k)), colour: inputs[0].input.colour }), // prettier-ignore
        {
          title: 'Cycles against the line',
          x: { label: 'Cycles', unit: '1', scale: 'logarithmic' },
          y: { label: 'Range', unit, scale: 'logarithmic' },
          marks: [
            lineMark(line, largest),
            { mark: 'points', name: 'Counted', unit, shape: 'round', colour: inputs[0].input.colour, x: Float64Array.from(used, (k) => cyclesIn[k] * duty).reverse(), y: Float64Array.from(used, atPoint).reverse() }, // prettier-ignore
          ],
        },
      ],
      tables: [
        {
          title: 'Damage by class',
          columns: [
            words('Class'),
            numeric('From', unit),
            numeric('To', unit),
            numeric('Cycles'),
            numeric('Damage'),
            numeric('Share', '%'),
          ],
          rows: labels.map((name, k) => [
            name,
            classes.edges[k],
            classes.edges[k + 1],
            cyclesIn[k] * duty,
            damageIn[k] * duty,
            share(k),
          ]),
        },
        {
          title: 'By take',
          columns: [
            words('Take'),
            numeric('Length', 's'),
            numeric('Share of time', '%'),
            numeric('Cycles'),
            numeric('Damage'),
            numeric('Share of the damage', '%'),
          ],
          rows: inputs.map(({ name }, k) => [
            name,
            seconds[k],
            shares[k] * 100,
            each[k].counted,
            each[k].own,
            perSecond > 0 ? (each[k].rate / perSecond) * 100 : 0,
          ]),
        },
      ],
    };
  },
};

/** The line as ranges over cycles, from well above what was counted to well below the knee. */
function lineMark(line: EnduranceLine, largest: number) {
  const top = Math.max(line.amplitude, largest / 2) * 1.5;
  const amplitudes = [top, line.amplitude, ...(line.slopeBelow === Infinity ? [] : [line.amplitude / 4])];
  const x = amplitudes.map((a) => cyclesToFailure(line, a));
  const flat = line.slopeBelow === Infinity;
  return {
    mark: 'line' as const,
    name: 'Line',
    tone: 'muted' as const,
    x: Float64Array.from(flat ? [...x, line.cycles * 1000] : x),
    y: Float64Array.from(flat ? [...amplitudes, line.amplitude] : amplitudes, (a) => 2 * a),
  };
}

/** Shares of time as written, or by how long takes are; they sum to 1. @throws `bad_input` */
function sharesOf(text: Settings['shares'], seconds: readonly number[]): number[] {
  const all = seconds.reduce((a, b) => a + b, 0);
  if (text === '') return seconds.map((s) => s / all);
  const given = text
    .split(/[,;\s%]+/)
    .filter(Boolean)
    .map(Number);
  const sum = given.reduce((a, b) => a + b, 0);
  if (given.length !== seconds.length || given.some((s) => !(s >= 0)) || !(sum > 0))
    throw badInput(
      'shares of the takes',
      text,
      `Give ${seconds.length} numbers, one for each take in its order, such as ${seconds.map((_, k) => (k ? 10 : 60)).join(', ')}.`,
    );
  return given.map((s) => s / sum);
}
