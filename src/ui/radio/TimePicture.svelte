<!-- One picture of what is looked at closer: power, magnitude, phase, frequency, I or Q over time, its spectrum, its waterfall, or the intervals of the pulses. -->
<script lang="ts">
  import type { Burst } from '$core/radio/bursts';
  import { voltsAt } from '$core/radio/levels';
  import { OVER_TIME, overTime, type OverTime } from '$core/radio/over-time';
  import { regionFalls, regionSpectrum } from '$core/radio/region';
  import { occupiedWidth } from '$core/radio/widths';
  import { hertzText, secondsText } from '$core/radio/words';
  import { fixed } from '$core/readings';
  import { HEAT, NIGHT_HEAT, traceColour } from '$contract/palette';
  import { drawBand } from './band-plot';
  import { heatPixels, canvasInk } from '../plot/canvas';
  import { drawIntervals, drawRows, drawTime, endsOf, type DrawnTime } from './time-plot';
  import PictureHead from './PictureHead.svelte';
  import { PICTURES, type PictureKind } from './pictures';

  type Props = {
    shows: PictureKind;
    /** Samples of the region, I and Q in turn. */
    iq: Float32Array;
    sampleRateHz: number;
    centreHz: number;
    /** Sample of the region that stands at 0. */
    zero: number;
    /** Pulses of the whole picture, in s from the region’s first sample. */
    bursts: readonly Burst[];
    level: { at: number; says: string } | null;
    night: boolean;
    choose: (shows: PictureKind) => void;
    remove: () => void;
  };
  let { shows, iq, sampleRateHz, centreHz, zero, bursts, level, night, choose, remove }: Props = $props();

  const n = $derived(iq.length / 2);
  const inside = $derived(bursts.filter((b) => b.atS >= 0 && (b.atS + b.widthS) * sampleRateHz < n));
  const isTime = (kind: PictureKind): kind is OverTime => (OVER_TIME as readonly string[]).includes(kind);
  /** The phase of what is no pulse says nothing. */
  const least = $derived.by(() => {
    const [b] = bursts;
    return b ? voltsAt(b.top - 10) : 0;
  });
  const says = $derived.by(() => {
    const [first] = inside;
    if (shows === 'frequency')
      return first && Number.isFinite(first.sweepHz)
        ? `kHz from the centre · sweeps ${hertzText(Math.abs(first.sweepHz))}`
        : 'kHz from the centre';
    return PICTURES[shows].says;
  });

  function attach(canvas: HTMLCanvasElement) {
    const watch = new ResizeObserver(() => paint(canvas));
    watch.observe(canvas);
    $effect(() => {
      void [shows, iq, zero, bursts, level, night];
      paint(canvas);
    });
    return () => watch.disconnect();
  }
  function paint(canvas: HTMLCanvasElement) {
    if (n < 2) return;
    const ink = canvasInk(canvas);
    const pixels = () => heatPixels(night ? NIGHT_HEAT : HEAT);
    if (isTime(shows)) return drawTime(canvas, timeOf(shows), ink);
    if (shows === 'intervals')
      return drawIntervals(canvas, bursts.map((b) => b.periodS).filter(Number.isFinite), ink);
    if (shows === 'spectrum') {
      const found = regionSpectrum(iq, sampleRateHz, centreHz);
      if (!found) return;
      const { low, high } = endsOf(found.levels);
      const top = Math.ceil(high / 10) * 10 + 10;
      const held = occupiedWidth(found.levels, found.plan, 0.99);
      drawBand(canvas, { plan: found.plan, top, height: Math.min(90, Math.ceil((top - low) / 10) * 10), lines: [{ levels: found.levels, colour: traceColour(0, night) }], pins: [], peaks: [], to: 0, chosen: 0, level: null, limits: [], dimensions: [{ width: held, says: `99 % in ${hertzText(held.widthHz)}`, own: true, row: 0 }], region: null, doubtful: false, aside: '' }, ink); // prettier-ignore
      return;
    }
    const falls = regionFalls(iq, sampleRateHz, centreHz);
    if (!falls) return;
    const { high } = endsOf(falls.levels);
    drawRows(
      canvas,
      { rows: falls.rows, lines: falls.plan.lines, levels: falls.levels, top: high, bottom: high - 60 },
      pixels(),
    );
  }
  function timeOf(kind: OverTime): DrawnTime {
    const values = overTime(iq, kind, sampleRateHz, kind === 'frequency' || kind === 'phase' ? least : 0);
    if (kind === 'frequency') for (let i = 0; i < values.length; i++) values[i] /= 1e3;
    const drawn: DrawnTime = {
      values,
      sampleRateHz,
      zero,
      colour: traceColour(kind === 'power' ? 0 : 1, night),
    };
    if (kind !== 'power') return drawn;
    const { high } = endsOf(values);
    // Single samples of noise fall without end: the axis begins where one in a hundred lies below.
    const sorted = Float32Array.from(values).sort();
    const low = sorted[Math.floor(sorted.length / 100)];
    drawn.range = { low: Math.floor(low / 10) * 10, high: Math.ceil((high + 8) / 10) * 10 };
    if (level) drawn.level = level;
    const [first, second] = inside;
    if (!first) return drawn;
    const at = (s: number) => s * sampleRateHz;
    drawn.dimensions = [
      {
        from: at(first.atS),
        to: at(first.atS + first.widthS),
        says: secondsText4(first.widthS),
        row: 0,
        own: true,
      },
    ];
    if (second)
      drawn.dimensions.push({
        from: at(first.atS),
        to: at(second.atS),
        says: secondsText4(second.atS - first.atS),
        row: 1,
      });
    drawn.height = {
      at: at(
        first.atS +
          first.widthS +
          Math.min(first.widthS, (second ? second.atS - first.atS : 2 * first.widthS) / 4),
      ),
      from: first.top,
      to: first.base,
      says: `${fixed(first.onToOff, 1)} dB`,
    };
    return drawn;
  }
  /** A measured time with a digit more than other times have. */
  const secondsText4 = (s: number) =>
    s < 1e-3 ? `${fixed(s * 1e6, 1)} µs` : s < 1 ? `${fixed(s * 1e3, 3)} ms` : secondsText(s);
</script>

<section class="card" aria-label={PICTURES[shows].name}>
  <PictureHead kinds={PICTURES} {shows} {says} choose={(k) => choose(k as PictureKind)} {remove} />
  <canvas {@attach attach} aria-label="{PICTURES[shows].name}: {says}"></canvas>
</section>

<style>
  section {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
    padding: var(--space-2) var(--space-2) var(--space-1);
  }
  canvas {
    width: 100%;
    flex: 1;
    min-height: 0;
    display: block;
  }
</style>
