<!-- The averaged spectra of the window that is looked at, moving with it. -->
<script lang="ts">
  import type { Figure, LineMark } from '$core/figures/figure';
  import { unpacked } from '$contract/packed';
  import { faultText, send, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import FigureView from '../plot/FigureView.svelte';
  import type { Inspection } from './inspection.svelte';
  import { signalOf } from './panels';

  type Props = { insp: Inspection; night: boolean };
  let { insp, night }: Props = $props();

  interface Line {
    take: string;
    name: string;
    unit: string;
    colour: number;
    own: boolean;
    stepHz: number;
    segments: number;
    skipped: number;
    density: Float32Array;
  }
  let lines = $state.raw<Line[]>([]);
  let fault = $state<FaultText | null>(null);
  const several = $derived(insp.takes.length > 1);

  $effect(() => {
    const [from, to] = insp.window;
    const wanted = insp.ordered
      .map((take) => ({
        take,
        signals: insp.names.flatMap((n) => signalOf(take, n) ?? []),
        zero: insp.zero(take.head.id),
      }))
      .filter((w) => w.signals.length);
    const { lines: fine } = insp.drawing;
    if (wanted.length === 0) return void (lines = []);
    const abort = new AbortController();
    const timer = setTimeout(async () => {
      try {
        const asks = wanted.map((w) => ({
          take: w.take.head.id,
          signals: w.signals.map((s) => s.id),
          from: from + w.zero,
          to: to + w.zero,
        }));
        const response = await send(
          'POST /api/spectra',
          { body: { asks, lines: fine, recorded: insp.recorded } },
          { signal: abort.signal },
        );
        const { head, next } = unpacked<{ signal: number; stepHz: number; count: number; segments: number; skipped: number }[][]>(await response.arrayBuffer()); // prettier-ignore
        lines = head.flatMap((of, k) =>
          of.flatMap(({ signal, stepHz, count, segments, skipped }) => {
            const s = wanted[k].signals.find((q) => q.id === signal)!;
            const density = next(count);
            if (count === 0) return [];
            return [
              {
                take: wanted[k].take.head.name,
                name: s.name,
                unit: s.unit,
                colour: s.colour,
                own: wanted[k].take === insp.main,
                stepHz,
                segments,
                skipped,
                density,
              },
            ];
          }),
        );
        fault = null;
      } catch (error) {
        if (!abort.signal.aborted) fault = faultText(error);
      }
    }, 80);
    return () => (clearTimeout(timer), abort.abort());
  });

  /** One figure for each unit. */
  const figures = $derived.by((): Figure[] =>
    [...new Set(lines.map((l) => l.unit))].map((unit) => {
      const own = lines.filter((l) => l.unit === unit);
      const most = Math.max(...own.flatMap((l) => [...l.density.subarray(1)]));
      const marks = [...own].reverse().map((l): LineMark => ({
        mark: 'line',
        name: several ? `${l.name}, ${l.take}` : l.name,
        x: { from: l.stepHz, step: l.stepHz, length: l.density.length - 1 },
        y: l.density.subarray(1),
        colour: l.colour,
        ...(several && !l.own && { tone: 'muted' as const }),
      }));
      return {
        title: 'Power spectral density of the window',
        x: { label: 'Frequency', unit: 'Hz', scale: 'linear' },
        y: {
          label: 'PSD',
          unit: `${unit === '1' ? '1' : `(${unit})²`}/Hz`,
          scale: 'logarithmic',
          min: most > 0 ? most * 1e-8 : undefined,
        },
        marks,
      };
    }),
  );
  const said = $derived(lines.find((l) => l.own) ?? lines[0]);
</script>

<div class="spectra" data-testid="spectra">
  {#if fault}<FaultNote {fault} />{/if}
  {#each figures as figure (figure.y.unit)}
    <div class="one"><FigureView {figure} {night} /></div>
  {:else}
    {#if !fault}<p class="muted none">The window holds too few samples for a spectrum: look at more.</p>{/if}
  {/each}
  {#if said}<p class="muted said">
      {said.segments} segments averaged, Hann window, half overlapping, lines
      <span class="mono">{Number(said.stepHz.toPrecision(4))}</span>
      Hz apart{said.skipped ? `; ${said.skipped} left out for gaps` : ''}.
    </p>{/if}
</div>

<style>
  .spectra {
    display: flex;
    flex-direction: column;
    flex: 1;
    min-height: 0;
    overflow: auto;
    padding: 0 var(--space-2);
  }
  .one {
    flex: 1 1 220px;
    min-height: 180px;
    display: flex;
    flex-direction: column;
  }
  .none,
  .said {
    margin: 0;
    padding: var(--space-1) var(--space-2);
    font-size: var(--type-small);
  }
</style>
