<!-- Frequencies and dampings of runs over what they differ by: each mode followed by its shape. -->
<script lang="ts">
  import { axisScale } from '$core/figures/scale';
  import { numberOfFact, tracksOf, type RunModes } from '$core/modal/tracks';
  import type { AnalysisView } from '$contract/modal';
  import { nameColour, traceColour } from '$contract/palette';
  import { begin, canvasInk, MONO, WORDS } from '../plot/canvas';

  type Props = { view: AnalysisView; night: boolean };
  let { view, night }: Props = $props();

  /** Facts that say a number in more than one run, each another. */
  const facts = $derived.by(() => {
    const names = new Set(view.sets.flatMap((s) => Object.keys(s.about)));
    return [...names].filter((name) => {
      const values = view.sets.flatMap((s) => numberOfFact(s.about[name] ?? '')?.value ?? []);
      return new Set(values).size > 1;
    });
  });
  let wanted = $state('');
  let what = $state<'hz' | 'damping'>('hz');
  const fact = $derived(facts.includes(wanted) ? wanted : (facts[0] ?? ''));
  const used = $derived(
    view.sets
      .flatMap((set) => {
        const value = numberOfFact(set.about[fact] ?? '');
        return value && set.modes ? [{ set, ...value }] : [];
      })
      .sort((a, b) => a.value - b.value),
  );
  const unit = $derived(used[0]?.unit ?? '');
  const tracks = $derived.by(() => {
    const [front] = used;
    if (!front) return [];
    const ids = front.set.facts?.responses.map((r) => r.id) ?? [];
    const runs = used.map(({ set, value }): RunModes => {
      const at = ids.map((id) => set.facts?.responses.findIndex((r) => r.id === id) ?? -1);
      return {
        at: value,
        modes: set
          .modes!.modes.filter((m) => !m.harmonic.is)
          .map((m) => ({
            hz: m.hz,
            damping: m.damping,
            name: m.name,
            shape: { re: Float64Array.from(at, (i) => m.shape.re[i] ?? 0), im: Float64Array.from(at, (i) => m.shape.im[i] ?? 0) }, // prettier-ignore
          })),
      };
    });
    return tracksOf(runs);
  });

  let canvas: HTMLCanvasElement;
  let box = $state({ width: 0, height: 0 });
  $effect(() => {
    void [night, box.width, box.height];
    const started = begin(canvas);
    if (!started) return;
    const { c, width, height } = started;
    const ink = canvasInk(canvas);
    const all = tracks.flatMap((t) => t.points);
    if (all.length === 0) return;
    const ends = (values: number[], room: number): [number, number] => {
      const [low, high] = [Math.min(...values), Math.max(...values)];
      const by = (high - low || Math.abs(high) || 1) * room;
      return [low - by, high + by];
    };
    const y0 = (p: (typeof all)[number]) => (what === 'hz' ? p.hz : 100 * p.damping);
    const x = axisScale({ label: fact, unit, scale: 'linear' }, ends(all.map((p) => p.at), 0.08), [48, width - 150], 6); // prettier-ignore
    const y = axisScale({ label: '', unit: '', scale: 'linear' }, ends(all.map(y0), 0.08), [height - 34, 14], Math.max(3, Math.floor(height / 60))); // prettier-ignore
    c.strokeStyle = ink.hair;
    c.beginPath();
    for (const t of y.ticks) {
      c.moveTo(48, Math.round(t.at) + 0.5);
      c.lineTo(width - 150, Math.round(t.at) + 0.5);
    }
    c.stroke();
    c.font = MONO;
    c.fillStyle = ink.muted;
    c.textAlign = 'right';
    c.textBaseline = 'middle';
    for (const t of y.ticks) c.fillText(t.text, 40, t.at);
    c.textAlign = 'center';
    c.textBaseline = 'top';
    for (const t of x.ticks) c.fillText(t.text, t.at, height - 30);
    c.font = WORDS;
    c.fillText(`${fact}${unit ? `, ${unit}` : ''}`, (48 + width - 150) / 2, height - 15);
    tracks.forEach((track, k) => {
      c.strokeStyle = c.fillStyle = traceColour(k, night);
      c.lineWidth = 1.5;
      c.beginPath();
      track.points.forEach((p, i) =>
        i ? c.lineTo(x.at(p.at), y.at(y0(p))) : c.moveTo(x.at(p.at), y.at(y0(p))),
      );
      c.stroke();
      for (const p of track.points) {
        c.beginPath();
        c.arc(x.at(p.at), y.at(y0(p)), 3, 0, 2 * Math.PI);
        c.fill();
      }
    });
    // Names at the right, moved apart where they would lie over each other.
    c.textAlign = 'left';
    c.textBaseline = 'middle';
    let above = -Infinity;
    const named = tracks.map((track, k) => ({ track, k, at: y.at(y0(track.points.at(-1)!)) })).sort((a, b) => a.at - b.at); // prettier-ignore
    for (const { track, k, at } of named) {
      above = Math.max(at, above + 14);
      c.fillStyle = nameColour(k, night);
      c.fillText(track.name || `${track.points[0].hz.toFixed(1)} Hz`, width - 142, above, 138);
    }
  });
</script>

<p class="choose">
  {#if facts.length}
    <select class="plain" bind:value={what} aria-label="What is drawn"
      ><option value="hz">Frequency, Hz</option><option value="damping">Damping, %</option></select
    >
    over
    <select
      class="plain"
      value={fact}
      onchange={(e) => (wanted = e.currentTarget.value)}
      aria-label="Fact of the takes"
      >{#each facts as f (f)}<option value={f}>{f}</option>{/each}</select
    >
    <span class="muted">{used.length} runs, each mode followed by its shape (MAC from 0.6)</span>
  {:else}
    <span class="muted"
      >No fact of these takes says a number that differs: note speed, flow or temperature with the takes, and
      do the same for more of them.</span
    >
  {/if}
</p>
<div class="both">
  <div class="box card" bind:clientWidth={box.width} bind:clientHeight={box.height}>
    <canvas bind:this={canvas} aria-label="Modes over {fact}"></canvas>
  </div>
  <div class="card list">
    <table class="plain">
      <thead
        ><tr
          ><th>Mode</th>{#each used as u (u.set.id)}<th class="num">{u.value} {unit}</th>{/each}<th
            class="num">least MAC</th
          ></tr
        ></thead
      >
      <tbody>
        {#each tracks as t, k (k)}
          <tr>
            <td>{t.name || '–'}</td>
            {#each used as u, run (u.set.id)}
              {@const p = t.points.find((q) => q.run === run)}
              <td class="num">{p ? (what === 'hz' ? p.hz.toFixed(2) : (100 * p.damping).toFixed(2)) : '–'}</td
              >
            {/each}
            <td class="num"
              >{t.points.length > 1 ? Math.min(...t.points.slice(1).map((p) => p.mac)).toFixed(2) : '–'}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
</div>

<style>
  .choose {
    margin: 0;
    display: flex;
    gap: var(--space-2);
    align-items: center;
  }
  .both {
    display: grid;
    grid-template-columns: minmax(0, 1.3fr) minmax(0, 1fr);
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .box {
    position: relative;
    min-height: 0;
  }
  .list {
    overflow: auto;
    padding: var(--space-2);
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
</style>
