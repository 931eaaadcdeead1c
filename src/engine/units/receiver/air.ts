import { Random } from '$core/random';
import { mw, noiseOf, MW_PER_V2, voltsAt } from '$core/radio/levels';
import type { StandInControl } from '$contract/unit';
import { beacon, carrier, hopper, supply, telemetry, voice, type Emitter } from './emitters';
import { chainTemperature } from './chain';
import { hearCabinet } from './cabinet';
import { T0 } from '$core/noise-figure/sources';
import { spread } from './spread';

const control = (id: string, label: string, value: number, unit = 'dBm', min = -130, max = 10): StandInControl => ({ id, label, unit, min, max, value }); // prettier-ignore

/** What is on the air at the quay, each set by hand; −130 dBm is as good as silent. */
export const AIR_CONTROLS: readonly StandInControl[] = [
  control('carrier', 'Quay crane’s carrier, 867.15 MHz', -71),
  control('other', 'A second carrier', -130),
  control('otherMHz', 'its frequency', 870, 'MHz', 1, 6000),
  control('telemetry', 'Rotor’s telemetry, 868 MHz', -46),
  control('telemetryOff', 'its carrier is off by', 0, 'Hz', -20_000, 20_000),
  control('telemetryUneven', 'its gain in phase over that in quadrature', 0, 'dB', 0, 6),
  control('hopper', 'A hopper around 869.75 MHz', -66),
  control('beacon', 'Pulsed beacon, 868.9 MHz', -48),
  control('voice', 'Harbour’s voice, 867.45 MHz', -80),
  control('supply', 'Switching supply nearby', -130),
  control(
    'input',
    'At its input: 0 antenna, 1 noise source, 2 source and device, 3 drive’s cabinet',
    0,
    '',
    0,
    3,
  ),
  control('source', 'Noise source is on', 0, 'yes/no', 0, 1),
  control('drive', 'Pitch drive runs', 1, 'yes/no', 0, 1),
];

/** How the stand-in hears: what its data sheet says. */
export const HEARS = {
  /** Limits of level accuracy and of the response over the band, dB; of the frequency reference, relative. */
  accuracy: { levelDb: 0.5, flatnessDb: 0.4, clock: 1e-6 },
  /** Noise figure of its first stage and behind it, dB. */
  noiseFigure: 6,
  secondFigure: 22,
  /** Level at its input that fills its converter without gain, dBm. */
  fullScale: 10,
  /** Mirror image, dB below what makes it; what is left of DC and its own spur, dBm at the converter’s input without gain. */
  image: -52,
  dc: -68,
  spur: -88,
} as const;

/** Noise figure at a gain before the converter (Friis 1944). @returns dB */
export const figureAt = (gainDb: number): number =>
  10 * Math.log10(mw(HEARS.noiseFigure) + (mw(HEARS.secondFigure) - 1) / mw(gainDb));

const TABLE = 1 << 18;
const MASK = 2 * TABLE - 1;
const CHUNK = 4096;

/** What an antenna at the quay hears, as complex samples of a receiver that is tuned somewhere. A sample depends on its index and the settings alone:
 *  in whatever pieces it is asked for, it is the same. */
export class Air {
  private readonly noise: Float32Array;
  private emitters: { id: string; make: Emitter }[];
  /** Whether the converter was at its end in the last piece. */
  overload = false;

  /** @param hand levels by control */
  constructor(
    readonly sampleRateHz: number,
    private readonly seed: number,
    private readonly hand: (id: string) => number,
  ) {
    const random = new Random(seed);
    this.noise = Float32Array.from({ length: 2 * TABLE }, () => random.gauss());
    this.emitters = [
      { id: 'carrier', make: carrier(867.15e6) },
      { id: 'other', make: (own) => carrier(hand('otherMHz') * 1e6)(own) },
      {
        id: 'telemetry',
        make: telemetry(868e6, sampleRateHz, seed, () => ({
          hz: hand('telemetryOff'),
          imbalanceDb: hand('telemetryUneven'),
        })),
      },
      { id: 'hopper', make: hopper(869.75e6, 50_000, 16, seed) },
      { id: 'beacon', make: beacon(868.9e6) },
      { id: 'voice', make: voice(867.45e6) },
      { id: 'supply', make: supply(65_300, seed) },
    ];
  }

  /** @param first index of the first sample @returns V rms over 50 Ω, I and Q in turn */
  read(first: number, count: number, tuned: { centreHz: number; gainDb: number }): Float32Array {
    const { sampleRateHz } = this;
    const out = new Float32Array(2 * count);
    // What lies beyond the receiver’s filter is not heard.
    const reach = sampleRateHz * 0.46;
    const input = Math.round(this.hand('input'));
    const { centreHz, gainDb } = tuned;
    if (input === 3)
      hearCabinet({ out, first, sampleRateHz, centreHz, reach }, this.hand('drive') > 0.5, this.seed);
    for (const { id, make } of this.emitters) {
      const level = this.hand(id);
      if (input === 0 && level > -125)
        make({ out, first, sampleRateHz, centreHz, reach, volts: voltsAt(level) });
    }
    const kelvin =
      input === 1 || input === 2 ? chainTemperature(centreHz, this.hand('source') > 0.5, input === 2) : T0;
    this.hear(out, first, gainDb, kelvin);
    return out;
  }

  /** The receiver’s own: uneven response, wandering phase, mirror image, noise, DC, a spur, and the end of its converter. */
  private hear(out: Float32Array, first: number, gainDb: number, kelvin: number): void {
    const { sampleRateHz, noise } = this;
    // What comes in is as warm as it is; a noise figure counts 290 K of it.
    const warmer = mw(figureAt(gainDb)) + kelvin / T0 - 1;
    const floor = Math.sqrt((mw(noiseOf(sampleRateHz, 0)) * warmer) / MW_PER_V2 / 2);
    // Within what the data sheet says: a quarter of a dB high, ±0.26 dB over the band.
    const [high, uneven] = [10 ** (0.25 / 20), 0.03];
    const image = 10 ** (HEARS.image / 20);
    const dc = voltsAt(HEARS.dc - gainDb);
    const spur = voltsAt(HEARS.spur - gainDb);
    const end = voltsAt(HEARS.fullScale - gainDb);
    const n = out.length / 2;
    let [formerRe, formerIm] = [0, 0];
    let clipped = 0;
    for (let from = 0; from < n;) {
      const chunk = Math.floor((first + from) / CHUNK);
      const begin = first + from - chunk * CHUNK;
      const count = Math.min(n - from, CHUNK - begin);
      const place = 2 * (spread(chunk, this.seed) % TABLE);
      for (let k = begin, i = 2 * from, last = begin + count; k < last; k++, i += 2) {
        const at = (place + 2 * k) & MASK;
        // Phase noise: another place of the same table.
        const wander = 0.0011 * noise[(at + 777) & MASK];
        const re = out[i] - wander * out[i + 1];
        const im = out[i + 1] + wander * out[i];
        const evenRe = high * (re + uneven * formerRe);
        const evenIm = high * (im + uneven * formerIm);
        formerRe = re;
        formerIm = im;
        // The spur turns a quarter with each sample: a chunk is a whole number of its turns.
        const quarter = k & 3;
        let x =
          evenRe +
          image * evenRe +
          floor * noise[at] +
          dc +
          (quarter === 0 ? spur : quarter === 2 ? -spur : 0);
        let y =
          evenIm -
          image * evenIm +
          floor * noise[at + 1] +
          (quarter === 1 ? spur : quarter === 3 ? -spur : 0);
        if (x > end || x < -end || y > end || y < -end) {
          clipped++;
          x = Math.max(-end, Math.min(end, x));
          y = Math.max(-end, Math.min(end, y));
        }
        out[i] = x;
        out[i + 1] = y;
      }
      from += count;
    }
    this.overload = clipped > 0;
  }
}
