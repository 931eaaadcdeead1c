import { z } from 'zod';
import { badInput } from '../errors';
import { Cascade, bothWays } from '../filters/cascade';
import { BANDS, designFilter, hasTwoEdges, responseOf, type Family, type Section } from '../filters/design';
import { convolve, designFir, firResponse } from '../filters/fir';
import type { Figure } from '../figures/figure';
import { rateHz } from '../samples/sampled';
import { field } from '../sentence/sentence';
import { kaiserWindow } from '../spectrum/windows';
import type { MakingKind } from './making';
import { byRuns } from './runs';

const FAMILIES = ['Butterworth', 'Chebyshev', 'inverse Chebyshev', 'Bessel', 'finite'] as const;
const WAYS = ['both ways, without delay', 'forwards, as it would be live'] as const;

const schema = z.strictObject({
  channels: field(z.array(z.string()).min(1, 'Choose at least one channel.').max(200), {
    label: 'Channels',
    editor: 'channels',
  }),
  family: field(z.enum(FAMILIES), {
    label: 'Kind of filter',
    editor: 'choice',
    options: FAMILIES,
    help: 'Butterworth: flattest. Chebyshev: steeper, with ripples in the pass band; inverse: ripples in the stop band. Bessel: keeps the form of pulses. Finite: an impulse response of so many taps, without delay.',
  }),
  band: field(z.enum(BANDS), { label: 'Band', editor: 'choice', options: BANDS }),
  edge: field(z.number().positive('Give a frequency above 0 Hz.').max(1e8), {
    label: 'Edge',
    editor: 'number',
    unit: 'Hz',
    help: 'Butterworth and Bessel: −3 dB (both ways −6 dB). Chebyshev: end of the ripples. Inverse: begin of the stop band. Finite: −6 dB.',
  }),
  upper: field(z.number().positive('Give a frequency above 0 Hz.').max(1e8), {
    label: 'Upper edge',
    editor: 'number',
    unit: 'Hz',
  }),
  order: field(z.number().int().min(1).max(10), {
    label: 'Order',
    editor: 'number',
    help: 'Of the low-pass it is made from: a band pass has twice as many poles; both ways counts twice.',
  }),
  ripple: field(z.number().min(0.01).max(3), { label: 'Ripple', editor: 'number', unit: 'dB' }),
  attenuation: field(z.number().min(20).max(120), { label: 'Attenuation', editor: 'number', unit: 'dB' }),
  taps: field(z.number().int().min(3).max(4001), {
    label: 'Taps',
    editor: 'number',
    help: 'Odd. The band turns from passing to stopping within about 6 times the rate over the taps.',
  }),
  ways: field(z.enum(WAYS), { label: 'Direction', editor: 'choice', options: WAYS }),
});
type Settings = z.infer<typeof schema>;

/** −60 dB beside the band, as a finite filter’s window has it. */
const KAISER_BETA = 5.65;

function sectionsOf(s: Settings, rate: number): Section[] {
  const family: Family =
    s.family === 'Chebyshev'
      ? { family: 'chebyshev', rippleDb: s.ripple }
      : s.family === 'inverse Chebyshev'
        ? { family: 'inverse chebyshev', attenuationDb: s.attenuation }
        : s.family === 'Bessel'
          ? { family: 'bessel', norm: '−3 dB at the edge' }
          : { family: 'butterworth' };
  return designFilter({ ...family, band: s.band, order: s.order, edgesHz: edgesOf(s) }, rate);
}
const edgesOf = ({ band, edge, upper }: Settings) => (hasTwoEdges(band) ? [edge, upper] : [edge]);
function tapsOf(s: Settings, rate: number): Float64Array {
  if (s.taps % 2 === 0) throw badInput('Taps', s.taps, 'Give an odd number: it has a middle.');
  return designFir(s.band, edgesOf(s), kaiserWindow(KAISER_BETA, s.taps), rate);
}

/** A record continued at both ends, turned about its end values. */
function continued(x: Float64Array, by: number): Float64Array {
  const out = new Float64Array(x.length + 2 * by);
  const last = x.length - 1;
  out.set(x, by);
  for (let k = 1; k <= by; k++) {
    out[by - k] = 2 * x[0] - x[Math.min(k, last)];
    out[by + last + k] = 2 * x[last] - x[Math.max(0, last - k)];
  }
  return out;
}

const edgesText = (s: Settings) => (hasTwoEdges(s.band) ? `${s.edge} to ${s.upper} Hz` : `${s.edge} Hz`);

/** Low pass, high pass, band pass, band stop. */
export const filter: MakingKind<typeof schema> = {
  kind: 'filter',
  title: 'Filtered',
  sentence: {
    schema,
    template: (s) => {
      const own =
        s.family === 'finite'
          ? ' with {taps} taps, without delay'
          : ` of order {order}${s.family === 'Chebyshev' ? ' with {ripple} ripple' : s.family === 'inverse Chebyshev' ? ' that takes out {attenuation}' : ''}, {ways}`;
      return `{channels} through a {family} {band} ${hasTwoEdges(s.band) ? 'from {edge} to {upper}' : 'at {edge}'}${own}.`;
    },
  },
  defaults: { channels: [], family: 'Butterworth', band: 'low pass', edge: 10, upper: 100, order: 4, ripple: 0.5, attenuation: 60, taps: 201, ways: 'both ways, without delay' }, // prettier-ignore
  roles: [{ key: 'channels', takes: 'several' }],
  gaps: 'A gap shorter than a period of the edge is bridged by a line and left out again; after a longer one it begins anew.',
  suited: (input) => {
    const rate = rateHz(input);
    const round = (f: number) => Number(f.toPrecision(1));
    return { edge: round(rate / 20), upper: round(rate / 5) };
  },
  make: ({ channels }, settings) =>
    channels.map((input) => {
      const rate = rateHz(input);
      const { unit, rate: exact, startNs, length } = input;
      const bridge = Math.floor(rate / settings.edge);
      let work: (run: Float64Array) => Float64Array;
      if (settings.family === 'finite') {
        const taps = tapsOf(settings, rate);
        work = (run) => convolve(continued(run, (taps.length - 1) / 2), taps);
      } else {
        const sections = sectionsOf(settings, rate);
        work = (run) => {
          if (settings.ways === 'both ways, without delay') bothWays(sections, run);
          else {
            const cascade = new Cascade(sections);
            cascade.settle(run[0]);
            cascade.run(run);
          }
          return run;
        };
      }
      return {
        name: `${input.name}, ${settings.band} ${edgesText(settings)}`,
        unit,
        rate: exact,
        startNs,
        length,
        blocks: (signal) => byRuns(input, bridge, work, signal),
      };
    }),
  response: (settings, rate) => {
    const finite = settings.family === 'finite' ? tapsOf(settings, rate) : null;
    const sections = finite ? null : sectionsOf(settings, rate);
    const twice = !finite && settings.ways === 'both ways, without delay' ? 2 : 1;
    const size = (hz: number) =>
      finite
        ? Math.abs(firResponse(finite, hz, rate))
        : Math.hypot(...responseOf(sections!, hz, rate)) ** twice;
    return responseFigure(size, [Math.min(...edgesOf(settings)) / 30, rate / 2], 'Response of the filter');
  },
};

const LEAST_DB = -100;
const POINTS = 400;

/** A magnitude over frequency, in dB. @param span Hz */
export function responseFigure(
  size: (hz: number) => number,
  [from, to]: [number, number],
  title: string,
): Figure {
  const x = Float64Array.from({ length: POINTS }, (_, i) => from * (to / from) ** (i / (POINTS - 1)));
  const y = x.map((hz) => Math.max(LEAST_DB - 20, 20 * Math.log10(size(hz) + 1e-9)));
  return {
    title,
    x: { label: 'Frequency', unit: 'Hz', scale: 'logarithmic' },
    y: { label: 'Passes', unit: 'dB', scale: 'linear', min: LEAST_DB, max: 5 },
    marks: [{ mark: 'line', name: 'Response', x, y }],
  };
}
