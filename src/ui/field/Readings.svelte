<!-- What was fetched of a recorder: its readings with the limits as shaded bands, marks, and what it measured while it waited in grey. -->
<script lang="ts">
  import type { BandMark, Figure, Mark } from '$core/figures/figure';
  import type { RecorderReadings, RecorderView } from '$contract/field';
  import FigureView from '../plot/FigureView.svelte';

  type Props = { recorder: RecorderView; readings: RecorderReadings; night: boolean };
  let { recorder, readings, night }: Props = $props();

  const values = (of: (number | null)[]) => Float64Array.from(of, (v) => v ?? NaN);
  const figures = $derived(readings.curves.map((curve, k) => figureOf(curve, k)));
  function figureOf(curve: RecorderReadings['curves'][number], k: number): Figure {
    const { high, low } =
      k === 0 ? (recorder.state.setup ?? { high: null, low: null }) : { high: null, low: null };
    const [lows, highs] = [values(curve.low), values(curve.high)];
    const x = { from: curve.fromMs, step: curve.stepMs, length: lows.length };
    const waiting = k === 0 ? readings.waiting : null;
    const all = [...lows, ...highs, ...(waiting ? values(waiting.values) : []), ...(high ? [high.at] : []), ...(low ? [low.at] : [])].filter(Number.isFinite); // prettier-ignore
    const [least, most] = [Math.min(...all), Math.max(...all)];
    const room = (most - least) * 0.08 || 1;
    const [bottom, top] = [least - room, most + room];
    const begin = waiting ? Math.min(waiting.fromMs, curve.fromMs) : curve.fromMs;
    const ends = [begin, curve.fromMs + curve.stepMs * Math.max(1, lows.length - 1)];
    const from = Math.max(ends[0], readings.settledMs ?? ends[0]);
    const beyond = (name: string, a: number, b: number): BandMark => ({ mark: 'band', name, tone: 'alarm', x: [from, ends[1]], low: [a, a], high: [b, b] }); // prettier-ignore
    const marks: Mark[] = [
      ...(high ? [beyond('', high.at, top)] : []),
      ...(low ? [beyond('', bottom, low.at)] : []),
      ...(waiting ? [{ mark: 'line' as const, name: 'while it waited', tone: 'muted' as const, x: { from: waiting.fromMs, step: waiting.stepMs, length: waiting.values.length }, y: values(waiting.values) }] : []), // prettier-ignore
      { mark: 'band', name: curve.name, unit: curve.unit, colour: k, solid: true, x, low: lows, high: highs },
      ...(k === 0 ? readings.marks.map((ms): Mark => ({ mark: 'text', x: ms, y: top - room / 2, says: '▾', tone: 'accent' })) : []), // prettier-ignore
    ];
    return {
      title: curve.name,
      x: { label: 'Time, UTC', unit: '', scale: 'calendar', min: ends[0], max: ends[1] },
      y: { label: curve.name, unit: curve.unit, scale: 'linear', min: bottom, max: top },
      marks,
    };
  }
</script>

{#each figures as figure (figure.title)}
  <div class="figure"><FigureView {figure} {night} /></div>
{/each}

<style>
  .figure {
    height: 15rem;
    display: flex;
    flex-direction: column;
  }
</style>
