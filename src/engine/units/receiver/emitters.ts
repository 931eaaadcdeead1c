import { pulseAt } from '$core/modulation/pulse';
import { Random } from '$core/random';
import { spread } from './spread';

/** Adds what one emitter is heard as to some samples. */
export interface Heard {
  /** I and Q in turn, V rms. */
  out: Float32Array;
  /** Index of the first sample. */
  first: number;
  sampleRateHz: number;
  centreHz: number;
  /** What is farther from the centre is not heard, Hz. */
  reach: number;
  volts: number;
}
export type Emitter = (heard: Heard) => void;

const TURN = 2 * Math.PI;
/** Phase of an oscillator at a sample, as exact for late samples as for early ones. */
const phaseAt = (hz: number, index: number, sampleRateHz: number): number => {
  // Whole seconds and the rest apart: a product of large numbers would lose the fraction.
  const seconds = Math.floor(index / sampleRateHz);
  const rest = (index - seconds * sampleRateHz) / sampleRateHz;
  const whole = ((hz % 1) * seconds) % 1;
  return TURN * ((whole + hz * rest) % 1);
};

/** Adds a tone to samples [from, to) of a piece. */
export function addTone(
  { out, first, sampleRateHz }: Heard,
  offsetHz: number,
  volts: number,
  from: number,
  to: number,
): void {
  const turn = (TURN * offsetHz) / sampleRateHz;
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const phase = phaseAt(offsetHz, first + from, sampleRateHz);
  let re = volts * Math.cos(phase);
  let im = volts * Math.sin(phase);
  for (let i = from; i < to; i++) {
    out[2 * i] += re;
    out[2 * i + 1] += im;
    const next = re * c - im * s;
    im = re * s + im * c;
    re = next;
  }
}

/** A steady carrier. */
export const carrier =
  (hz: number): Emitter =>
  (heard) => {
    const offset = hz - heard.centreHz;
    if (Math.abs(offset) < heard.reach) addTone(heard, offset, heard.volts, 0, heard.out.length / 2);
  };

/** Hops from channel to channel in an order that only its seed knows: 4 ms in each, a pause of 1 ms. */
export const hopper =
  (hz: number, stepHz: number, channels: number, seed: number): Emitter =>
  (heard) => {
    const { first, sampleRateHz, centreHz, reach, volts, out } = heard;
    const n = out.length / 2;
    const each = Math.round(0.005 * sampleRateHz);
    const on = Math.round(0.004 * sampleRateHz);
    for (let slot = Math.floor(first / each); slot * each < first + n; slot++) {
      const channel = spread(slot, seed) % channels;
      const offset = hz + (channel - (channels - 1) / 2) * stepHz - centreHz;
      if (Math.abs(offset) >= reach) continue;
      const from = Math.max(0, slot * each - first);
      const to = Math.min(n, slot * each + on - first);
      if (to > from) addTone(heard, offset, volts, from, to);
    }
  };

/** Pulses of 1.152 ms every 5 ms with edges of 23 µs, that sweep 96 kHz and droop by 1.2 dB. */
export const BEACON = {
  periodS: 0.005,
  widthS: 0.001152,
  edgeS: 23e-6,
  sweepHz: 96_000,
  droopDb: 1.2,
} as const;

export const beacon =
  (hz: number): Emitter =>
  ({ out, first, sampleRateHz, centreHz, reach, volts }) => {
    const offset = hz - centreHz;
    if (Math.abs(offset) >= reach) return;
    const { periodS, widthS, edgeS, sweepHz, droopDb } = BEACON;
    const n = out.length / 2;
    const period = periodS * sampleRateHz;
    const fade = -(droopDb / 20) * Math.LN10;
    for (let k = Math.floor(first / period) - 1; k * period < first + n; k++) {
      const start = k * period;
      const from = Math.max(0, Math.ceil(start - (edgeS / 2) * sampleRateHz - first));
      const to = Math.min(n, Math.ceil(start + (widthS + edgeS / 2) * sampleRateHz - first));
      for (let i = from; i < to; i++) {
        const t = (first + i - start) / sampleRateHz;
        const share = Math.max(0, Math.min(1, t / widthS));
        const edge = Math.min(1, t / edgeS + 0.5, (widthS - t) / edgeS + 0.5);
        const v = volts * edge * Math.exp(fade * share);
        const phase = TURN * (offset * t + sweepHz * t * (t / widthS / 2 - 0.5));
        out[2 * i] += v * Math.cos(phase);
        out[2 * i + 1] += v * Math.sin(phase);
      }
    }
  };

/** A voice on frequency modulation: three tones that come and go with the syllables, 3 kHz of deviation. */
export const voice =
  (hz: number): Emitter =>
  ({ out, first, sampleRateHz, centreHz, reach, volts }) => {
    const offset = hz - centreHz;
    if (Math.abs(offset) >= reach) return;
    const each = 64;
    const angle = (index: number) => {
      const t = index / sampleRateHz;
      const syllable = Math.max(0, Math.sin(TURN * 1.7 * t)) ** 2;
      return (
        syllable *
        (4.2 * Math.sin(TURN * 440 * t) + 2.1 * Math.sin(TURN * 710 * t) + 0.6 * Math.sin(TURN * 1830 * t))
      );
    };
    const n = out.length / 2;
    let [known, next] = [-1, 0];
    for (let i = 0; i < n;) {
      const index = first + i;
      const left = Math.min(n - i, each - (index % each));
      const begin = index - (index % each);
      const a = known === begin ? next : angle(begin);
      const b = angle(begin + each);
      [known, next] = [begin + each, b];
      const turn = (TURN * offset) / sampleRateHz + (b - a) / each;
      const phase = phaseAt(offset, index, sampleRateHz) + a + ((b - a) * (index - begin)) / each;
      const [c, s] = [Math.cos(turn), Math.sin(turn)];
      let [re, im] = [volts * Math.cos(phase), volts * Math.sin(phase)];
      for (const end = i + left; i < end; i++) {
        out[2 * i] += re;
        out[2 * i + 1] += im;
        const turned = re * c - im * s;
        im = re * s + im * c;
        re = turned;
      }
    }
  };

/** A switching supply: a broad spike at each of its turns, each a little early or late and of its own strength. */
export const supply =
  (hz: number, seed: number): Emitter =>
  ({ out, first, sampleRateHz, volts }) => {
    const n = out.length / 2;
    const period = sampleRateHz / hz;
    for (let k = Math.floor(first / period) - 1; (k - 1) * period < first + n; k++) {
      const chance = spread(k, seed + 5);
      const at = Math.round((k + ((chance & 1023) / 1024) * 0.05) * period) - first;
      if (at < 0 || at >= n) continue;
      // The mean power is the level’s: all of it in one sample a period.
      const v = volts * Math.sqrt(period) * (0.8 + ((chance >>> 10) & 255) / 640);
      const phase = (TURN * (chance >>> 18)) / 8192;
      out[2 * at] += v * Math.cos(phase);
      out[2 * at + 1] += v * Math.sin(phase);
    }
  };

/** The rotor’s telemetry: frames of 40 ms every 50 ms, 500,000 symbols a second of four phases, through a root-raised-cosine filter of roll-off 0.35. Each frame begins with the
 *  same 32 symbols; four frames of data follow one another and come again. */
export const TELEMETRY = {
  symbolHz: 500_000,
  rollOff: 0.35,
  frameS: 0.04,
  everyS: 0.05,
  preamble: 32,
} as const;

/** Symbols of a frame, 0 to 3. */
function telemetrySymbols(frame: number, seed: number): Uint8Array {
  const { symbolHz, frameS, preamble } = TELEMETRY;
  const own = new Random(seed + 1 + frame);
  const same = new Random(seed);
  return Uint8Array.from({ length: Math.round(symbolHz * frameS) }, (_, k) =>
    Math.floor((k < preamble ? same : own).uniform() * 4),
  );
}

/** @param off what is wrong with its transmitter: Hz by which its carrier is off, dB by which it is stronger in phase than in quadrature */
export function telemetry(
  hz: number,
  sampleRateHz: number,
  seed: number,
  off: () => { hz: number; imbalanceDb: number } = () => ({ hz: 0, imbalanceDb: 0 }),
): Emitter {
  const { symbolHz, rollOff, everyS } = TELEMETRY;
  const each = Math.round(everyS * sampleRateHz);
  const span = 6;
  const frames = new Map<number, Float32Array>();
  /** Samples of a frame at the centre, mean power 1 while it is on; made when it is heard first. */
  const frameOf = (which: number): Float32Array => {
    const done = frames.get(which);
    if (done) return done;
    const out = new Float32Array(2 * each);
    const symbols = telemetrySymbols(which, seed);
    const perSymbol = sampleRateHz / symbolHz;
    // Each symbol adds its response around its place; the response is looked up, a thousand places a symbol.
    const fine = 1024;
    const response = Float64Array.from({ length: 2 * span * fine + 2 }, (_, k) => pulseAt('root raised cosine', k / fine - span, rollOff)); // prettier-ignore
    for (let k = 0; k < symbols.length; k++) {
      const angle = (TURN * (2 * symbols[k] + 1)) / 8;
      const [re, im] = [Math.cos(angle), Math.sin(angle)];
      const from = Math.ceil(k * perSymbol);
      const to = Math.min(each - 1, Math.floor((k + 2 * span) * perSymbol));
      for (let i = from; i <= to; i++) {
        const h = response[Math.round((i / perSymbol - k) * fine)];
        out[2 * i] += h * re;
        out[2 * i + 1] += h * im;
      }
    }
    frames.set(which, out);
    return out;
  };
  return ({ out, first, centreHz, reach, volts }) => {
    const own = off();
    const offset = hz + own.hz - centreHz;
    if (Math.abs(offset) >= reach) return;
    const n = out.length / 2;
    const louder = 10 ** (own.imbalanceDb / 20);
    const turn = (TURN * offset) / sampleRateHz;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    for (let i = 0; i < n;) {
      const index = first + i;
      const frame = frameOf(Math.floor(index / each) % 4);
      const at = index % each;
      const count = Math.min(n - i, each - at);
      const phase = phaseAt(offset, index, sampleRateHz);
      let [re, im] = [volts * Math.cos(phase), volts * Math.sin(phase)];
      for (let k = 2 * at; k < 2 * (at + count); k += 2, i++) {
        const x = louder * frame[k];
        out[2 * i] += re * x - im * frame[k + 1];
        out[2 * i + 1] += re * frame[k + 1] + im * x;
        const next = re * c - im * s;
        im = re * s + im * c;
        re = next;
      }
    }
  };
}
