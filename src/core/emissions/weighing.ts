import { Cascade } from '../filters/cascade';
import { designFilter } from '../filters/design';
import { ChannelFilter } from '../radio/channel-filter';
import { dbm, MW_PER_V2 } from '../radio/levels';
import { BAND_CONSTANTS, type WeightingBand } from './bands';
import { QuasiPeak } from './quasi-peak';

/** Rate of the envelope over the bandwidth of the receiver. */
const FINE = 6;

/** A frequency weighed by each detector, dBm of the steady sine that reads the same. */
export interface Weighed {
  hz: number;
  peak: number;
  quasiPeak: number;
  average: number;
  rms: number;
}

/** The receiver’s selection filter: two Butterworth stages of second order, together 6 dB down at half its bandwidth. Source: CISPR 16-1-1, annex. */
export function selection(band: WeightingBand, sampleRateHz: number): () => Cascade {
  const edge = BAND_CONSTANTS[band].bandwidth6Hz / 2;
  const one = designFilter(
    { family: 'butterworth', band: 'low pass', order: 2, edgesHz: [edge] },
    sampleRateHz,
  );
  return () => new Cascade([...one, ...one]);
}

/** Average detector with the meter behind it: of what comes and goes, its largest deflection counts. Source: CISPR 16-1-1, clause 6. */
export class AverageMeter {
  private first = 0;
  private second = 0;
  private most = 0;
  private readonly turn: number;

  constructor(band: WeightingBand, sampleRateHz: number) {
    this.turn = 1 - Math.exp(-1 / (BAND_CONSTANTS[band].meterS * sampleRateHz));
  }
  push(envelope: Float32Array): void {
    const { turn } = this;
    let { first, second, most } = this;
    for (let i = 0; i < envelope.length; i++) {
      first += turn * (envelope[i] - first);
      second += turn * (first - second);
      if (second > most) most = second;
    }
    this.first = first;
    this.second = second;
    this.most = most;
  }
  get volts(): number {
    return this.most;
  }
}

/** One frequency through the selection filter and all detectors at once. */
class Detectors {
  private readonly channel: ChannelFilter;
  private readonly inPhase: Cascade;
  private readonly inQuadrature: Cascade;
  private readonly quasiPeak: QuasiPeak;
  private readonly average: AverageMeter;
  private peak = 0;
  private squares = 0;
  private count = 0;

  constructor(
    readonly hz: number,
    band: WeightingBand,
    receiver: { centreHz: number; sampleRateHz: number },
  ) {
    const { bandwidth6Hz } = BAND_CONSTANTS[band];
    this.channel = new ChannelFilter(receiver.sampleRateHz, hz - receiver.centreHz, FINE * bandwidth6Hz);
    const rate = this.channel.sampleRateHz;
    const filter = selection(band, rate);
    this.inPhase = filter();
    this.inQuadrature = filter();
    this.quasiPeak = new QuasiPeak(band, rate);
    this.average = new AverageMeter(band, rate);
  }

  push(iq: Float32Array, first: number): void {
    const out = this.channel.push(iq, first).iq;
    const n = out.length / 2;
    if (n === 0) return;
    const re = new Float64Array(n);
    const im = new Float64Array(n);
    for (let i = 0; i < n; i++) {
      re[i] = out[2 * i];
      im[i] = out[2 * i + 1];
    }
    this.inPhase.run(re);
    this.inQuadrature.run(im);
    const envelope = new Float32Array(n);
    for (let i = 0; i < n; i++) {
      const square = re[i] * re[i] + im[i] * im[i];
      this.squares += square;
      envelope[i] = Math.sqrt(square);
      if (envelope[i] > this.peak) this.peak = envelope[i];
    }
    this.count += n;
    this.quasiPeak.push(envelope);
    this.average.push(envelope);
  }

  read(): Weighed {
    const level = (volts: number) => dbm(volts * volts * MW_PER_V2);
    return {
      hz: this.hz,
      peak: level(this.peak),
      quasiPeak: level(this.quasiPeak.volts),
      average: level(this.average.volts),
      rms: level(Math.sqrt(this.squares / this.count)),
    };
  }
}

/** Weighs a few frequencies over some seconds, as an interference receiver does: peak, quasi-peak, average and rms of the same samples. */
export class Weighing {
  private readonly detectors: Detectors[];
  private seen = 0;
  private readonly whole: number;

  constructor(
    { hz, band, seconds }: { hz: readonly number[]; band: WeightingBand; seconds: number },
    receiver: { centreHz: number; sampleRateHz: number },
  ) {
    this.detectors = hz.map((f) => new Detectors(f, band, receiver));
    this.whole = Math.ceil(seconds * receiver.sampleRateHz);
  }

  /** @returns share of the time that is there */
  push(iq: Float32Array, first: number): number {
    for (const d of this.detectors) d.push(iq, first);
    this.seen += iq.length / 2;
    return this.seen / this.whole;
  }

  result(): { does: 'weigh'; weighed: Weighed[] } {
    return { does: 'weigh', weighed: this.detectors.map((d) => d.read()) };
  }
}
