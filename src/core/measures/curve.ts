import { z } from 'zod';
import { badInput } from '../errors';
import { sampleS, type Sampled } from '../samples/sampled';
import { field } from '../sentence/sentence';
import { Moments } from '../statistics/moments';
import { channelField, combinedUnit, eachChunk, follower, numberField } from './fields';
import type { MeasureKind } from './measure';

const slopeSchema = z.strictObject({
  y: channelField('Rises'),
  x: channelField('Over'),
  low: numberField('From', 'y'),
  high: numberField('To', 'y'),
});

/** Slope of one channel over another by least squares, over the first passage of the one between two of its levels. */
export const slope: MeasureKind<typeof slopeSchema> = {
  kind: 'slope',
  title: 'the slope of a channel over another one',
  sentence: { schema: slopeSchema, template: () => 'The slope of {y} over {x} between {low} and {high}.' },
  defaults: { y: '', x: '', low: 0, high: 1 },
  name: ({ y, x }) => `slope of ${y} over ${x}`,
  run(take, { y, x, low, high }) {
    if (low === high) throw badInput('levels', low, 'Give two different levels.');
    const [own, other] = [take.channel(y), take.channel(x)];
    const { first, end } = passage(own, low, high);
    const xAt = follower(other);
    const sums = { n: 0, x: 0, y: 0, xx: 0, xy: 0 };
    eachChunk(own, { first, end }, (block, at) => {
      block.forEach((value, k) => {
        const place = xAt(sampleS(own, at + k));
        if (value !== value || place !== place) return;
        // About the running means, so that large offsets cost no digits.
        const [dx, dy] = [place - sums.x, value - sums.y];
        sums.n++;
        sums.x += dx / sums.n;
        sums.y += dy / sums.n;
        sums.xx += dx * (place - sums.x);
        sums.xy += dx * (value - sums.y);
      });
    });
    if (sums.n < 2 || !(sums.xx > 0))
      throw badInput(
        y,
        `${sums.n} samples from ${low} to ${high} ${own.unit}`,
        `${x} has to change meanwhile.`,
      );
    const { unit, factor } = combinedUnit(own.unit, other.unit, -1);
    return { value: (sums.xy / sums.xx) * factor, unit, atS: sampleS(own, first) };
  },
};

/** Samples from the last one before `low` is passed for good until `high` is first reached: one passage, not several. */
function passage(signal: Sampled, low: number, high: number): { first: number; end: number } {
  const sign = high > low ? 1 : -1;
  let first = -1;
  let end = -1;
  eachChunk(signal, { first: 0, end: signal.length }, (block, at) => {
    for (let i = 0; i < block.length; i++) {
      const value = block[i] * sign;
      if (value < low * sign) first = -1;
      else if (first < 0 && value >= low * sign) first = at + i;
      if (first >= 0 && value >= high * sign) {
        end = value === high * sign ? at + i + 1 : at + i;
        return false;
      }
    }
    return true;
  });
  if (first < 0 || end <= first)
    throw badInput(
      signal.name,
      `no passage from ${low} to ${high} ${signal.unit}`,
      'Choose levels it passes.',
    );
  return { first, end };
}

const UNTIL = ['the end', 'the break', 'the highest'] as const;
const areaSchema = z.strictObject({
  y: channelField('Under'),
  x: channelField('Over'),
  until: field(z.enum(UNTIL), {
    label: 'Until',
    editor: 'choice',
    options: UNTIL,
    help: 'The break is where the channel, after its highest value, first falls below a share of it.',
  }),
  share: field(z.number().min(1, 'At least 1 %.').max(99, 'At most 99 %.'), {
    label: 'Broken below',
    editor: 'number',
    unit: '%',
    help: 'Of its highest value.',
  }),
});

/** Area under a channel over another one (trapezia): an energy where it is a force over a travel. */
export const area: MeasureKind<typeof areaSchema> = {
  kind: 'area',
  title: 'the area under a channel over another one: energy of a force over its travel',
  sentence: {
    schema: areaSchema,
    template: ({ until }) =>
      `The area under {y} over {x} until {until}${until === 'the break' ? ' (below {share} of the highest)' : ''}.`,
  },
  defaults: { y: '', x: '', until: 'the break', share: 50 },
  name: ({ y, x, until }) => `area under ${y} over ${x} until ${until}`,
  run(take, { y, x, until, share }) {
    const [own, other] = [take.channel(y), take.channel(x)];
    const end = endOf(own, until, share);
    const xAt = follower(other);
    const { unit, factor } = combinedUnit(own.unit, other.unit, 1);
    let sum = 0;
    let [lastX, lastY] = [NaN, NaN];
    let last = -1;
    eachChunk(own, { first: 0, end }, (block, at) => {
      block.forEach((value, k) => {
        const place = xAt(sampleS(own, at + k));
        // What lies within a gap is left out: nothing is made up.
        if (value === value && lastX === lastX && place === place)
          sum += ((value + lastY) / 2) * (place - lastX);
        [lastX, lastY] = value === value ? [place, value] : [NaN, NaN];
        if (value === value && place === place) last = at + k;
      });
    });
    if (last < 0) throw badInput(y, `nothing beside ${x}`, 'Choose channels that were measured at once.');
    return { value: sum * factor, unit, atS: sampleS(own, last) };
  },
};

/** Index after the last sample that counts. */
function endOf(signal: Sampled, until: (typeof UNTIL)[number], share: number): number {
  if (until === 'the end') return signal.length;
  const m = new Moments();
  eachChunk(signal, { first: 0, end: signal.length }, (block) => m.push(block));
  if (m.count === 0) throw badInput(signal.name, 'missing all along', 'Choose another channel.');
  if (until === 'the highest') return m.maxIndex + 1;
  let end = signal.length;
  eachChunk(signal, { first: m.maxIndex, end: signal.length }, (block, at) => {
    const found = block.findIndex((value) => value < (share / 100) * m.max);
    if (found < 0) return true;
    end = at + found;
    return false;
  });
  return end;
}
