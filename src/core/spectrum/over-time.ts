import FFT from 'fft.js';
import { badInput } from '../errors';
import { spectralWindow, type WindowName } from './windows';

/** Spectra one after the other. Row k of a slice is frequency k · resolution. */
interface OverTime {
  /** One-sided power spectral density, unit²/Hz; cell (slice i, line k) is density[k · slices + i], NaN where a gap lies in the segment. */
  density: Float32Array;
  slices: number;
  lines: number;
  resolutionHz: number;
  /** Samples from the beginning to the middle of the first slice, and between the middles of two. */
  firstAt: number;
  step: number;
}

/** Power spectral density over time by overlapping segments that come in blocks. Slices that are more than can be drawn are averaged in groups of power
 *  (gaps left out), so that no moment is lost. Source: Allen and Rabiner, Proc. IEEE 65(11), 1977. */
export class SpectrumOverTime {
  private readonly fft: FFT;
  private readonly window: Float64Array;
  private readonly step: number;
  private readonly buffer: Float64Array;
  private readonly spectrum: Float64Array;
  private readonly tapered: Float64Array;
  private filled = 0;
  private readonly columns: Float64Array[] = [];
  private readonly counts: number[] = [];
  private segments = 0;
  /** Columns of the segments that wait to be transformed. */
  private readonly waiting: number[] = [];
  /** Segments a column, a power of two that grows as they come. */
  private group = 1;

  /** @param most columns at most, an even number @throws `bad_input` for a length that is no power of two */
  constructor(
    private readonly options: {
      sampleRateHz: number;
      segmentLength: number;
      window: WindowName;
      overlap: number;
      removeMean: boolean;
    },
    private readonly most = 400,
  ) {
    const { segmentLength: n, window, overlap } = options;
    if (!(n >= 16 && Number.isInteger(Math.log2(n))))
      throw badInput('segment length', n, 'Give a power of two from 16 up.');
    if (!(overlap >= 0 && overlap <= 0.95))
      throw badInput('overlap', overlap, 'Give a share from 0 to 0.95.');
    this.fft = new FFT(n);
    this.window = spectralWindow(window, n);
    this.step = n - Math.floor(n * overlap);
    [this.buffer, this.tapered, this.spectrum] = [
      new Float64Array(n),
      new Float64Array(2 * n),
      new Float64Array(2 * n),
    ];
  }

  push(block: ArrayLike<number>): void {
    const { buffer, step } = this;
    const n = buffer.length;
    for (let at = 0; at < block.length;) {
      const take = Math.min(n - this.filled, block.length - at);
      for (let i = 0; i < take; i++) buffer[this.filled + i] = block[at + i];
      this.filled += take;
      at += take;
      if (this.filled < n) return;
      this.add();
      buffer.copyWithin(0, step);
      this.filled = n - step;
    }
  }

  private add(): void {
    const { buffer, window, tapered } = this;
    const n = buffer.length;
    let column = Math.floor(this.segments / this.group);
    if (column === this.most) {
      this.flush();
      this.halve();
      column = Math.floor(this.segments / this.group);
    }
    this.segments++;
    this.columns[column] ??= new Float64Array(n / 2 + 1);
    this.counts[column] ??= 0;
    let mean = 0;
    for (let i = 0; i < n; i++) mean += buffer[i];
    if (Number.isNaN(mean)) return;
    mean = this.options.removeMean ? mean / n : 0;
    const at = this.waiting.length;
    for (let i = 0; i < n; i++) tapered[2 * i + at] = (buffer[i] - mean) * window[i];
    this.counts[column]++;
    this.waiting.push(column);
    if (at === 1) this.flush();
  }

  /** Two segments share one complex transform: x = a + jb, A = (X(k) + X*(n−k))/2, B = (X(k) − X*(n−k))/2j. */
  private flush(): void {
    const { tapered, spectrum, waiting } = this;
    if (waiting.length === 0) return;
    const n = this.buffer.length;
    if (waiting.length === 1) for (let i = 0; i < n; i++) tapered[2 * i + 1] = 0;
    this.fft.transform(spectrum, tapered);
    const one = this.columns[waiting[0]];
    const two = this.columns[waiting[1] ?? waiting[0]];
    for (let k = 0; k <= n / 2; k++) {
      const m = (n - k) & (n - 1);
      const a = spectrum[2 * k];
      const b = spectrum[2 * k + 1];
      const c = spectrum[2 * m];
      const d = spectrum[2 * m + 1];
      one[k] += ((a + c) * (a + c) + (b - d) * (b - d)) / 4;
      two[k] += ((b + d) * (b + d) + (c - a) * (c - a)) / 4;
    }
    waiting.length = 0;
  }

  private halve(): void {
    for (let i = 0; 2 * i < this.columns.length; i++) {
      const [a, b] = [this.columns[2 * i], this.columns[2 * i + 1]];
      if (b) for (let k = 0; k < a.length; k++) a[k] += b[k];
      this.columns[i] = a;
      this.counts[i] = this.counts[2 * i] + (this.counts[2 * i + 1] ?? 0);
    }
    this.columns.length = this.counts.length = Math.ceil(this.columns.length / 2);
    this.group *= 2;
  }

  /** @throws `bad_input` where no whole segment came */
  result(): OverTime {
    this.flush();
    const n = this.buffer.length;
    const slices = this.columns.length;
    if (slices === 0)
      throw badInput(
        'span',
        'shorter than a segment',
        `One segment needs ${n} samples: choose a shorter segment or a longer span.`,
      );
    let power = 0;
    for (const w of this.window) power += w * w;
    const lines = n / 2 + 1;
    const density = new Float32Array(slices * lines);
    for (let i = 0; i < slices; i++) {
      const scale = 1 / (this.options.sampleRateHz * power * this.counts[i]);
      for (let k = 0; k < lines; k++)
        density[k * slices + i] = this.counts[i]
          ? this.columns[i][k] * scale * (k === 0 || k === n / 2 ? 1 : 2)
          : NaN;
    }
    return {
      density,
      slices,
      lines,
      resolutionHz: this.options.sampleRateHz / n,
      firstAt: n / 2 + ((this.group - 1) * this.step) / 2,
      step: this.step * this.group,
    };
  }
}
