<!-- Sets beside each other: their sums over each other, their modes in pairs by shape, how alike they are, and two modes in motion. -->
<script lang="ts">
  import { mergedShape } from '$core/modal/merge';
  import { mac, type Shape } from '$core/modal/shape';
  import { motionOf } from '$core/wireframe/motion';
  import type { Wireframe } from '$core/wireframe/wireframe';
  import type { AnalysisView, ModeView, SetView } from '$contract/modal';
  import { traceColour } from '$contract/palette';
  import { useShell } from '../shell/shell.svelte';
  import { faultText } from '../api';
  import { correlationsOf, type LineMaker } from './analysis.svelte';
  import type { SetLines } from './lines.worker';
  import MacPicture from './MacPicture.svelte';
  import { canvasInk } from '../plot/canvas';
  import { drawPair } from './pair-plot';
  import RunsOver from './RunsOver.svelte';
  import ShapeCard from './ShapeCard.svelte';
  import { frequencyText } from './words';

  type Props = { view: AnalysisView; frame: Wireframe; maker: LineMaker; night: boolean };
  let { view, frame, maker, night }: Props = $props();
  const shell = useShell();

  let over = $state(false);
  let against = $state(1);
  let base = $state(0);
  let chosen = $state(0);
  const [a, b] = $derived([view.sets[Math.min(base, view.sets.length - 1)], view.sets[Math.min(against, view.sets.length - 1)]]); // prettier-ignore
  let lines = $state.raw<Record<string, SetLines>>({});
  $effect(() => {
    for (const set of [a, b])
      if (set.correlationsId && !lines[set.id])
        void correlationsOf(view.id, set)
          .then((file) => maker.make(file, set.correlate.left / 100))
          .then((made) => (lines = { ...lines, [set.id]: made }))
          .catch((error) => shell.say(faultText(error)));
  });

  /** Responses that both have, by channel, in the order of the first. */
  const common = $derived.by(() => {
    const [p, q] = [a.facts?.responses ?? [], b.facts?.responses ?? []];
    return p.flatMap((r, i) => {
      const k = q.findIndex((o) => o.id === r.id || o.name === r.name);
      return k < 0 ? [] : [[i, k] as const];
    });
  });
  const cut = (m: ModeView, side: 0 | 1): Shape => ({
    re: Float64Array.from(common, (c) => m.shape.re[c[side]]),
    im: Float64Array.from(common, (c) => m.shape.im[c[side]]),
  });
  const shapes = (set: SetView, side: 0 | 1) =>
    set.modes?.modes.map((m, k) => ({ name: `${side ? 'B' : 'A'} ${k + 1}`, shape: cut(m, side) })) ?? [];
  const [rows, columns] = $derived([shapes(a, 0), shapes(b, 1)]);
  /** Each mode of the first with the one of the second that is most alike. */
  const paired = $derived(
    (a.modes?.modes ?? []).map((m, k) => {
      const alike = columns.map((c) => mac(rows[k].shape, c.shape));
      const best = alike.indexOf(Math.max(...alike));
      return { m, other: alike[best] > 0.5 ? b.modes!.modes[best] : null, mac: alike[best] ?? NaN, best };
    }),
  );
  const one = $derived(paired[Math.min(chosen, paired.length - 1)]);
  const motion = (set: SetView, m: ModeView) =>
    motionOf(frame, { re: Float64Array.from(m.shape.re), im: Float64Array.from(m.shape.im) }, set.facts?.responses.map((r) => r.id) ?? []); // prettier-ignore

  /** Sets whose sensors sat in other places share some: a mode of both is one shape, brought together by what they share. */
  const idsOf = (set: SetView) => set.facts?.responses.map((r) => r.id) ?? [];
  const apart = $derived(
    common.length > 0 && (common.length < idsOf(a).length || common.length < idsOf(b).length),
  );
  const merged = $derived.by(() => {
    if (!apart || !one?.other) return null;
    const part = (set: SetView, m: ModeView) => ({
      names: set.facts!.responses.map((r) => r.name),
      shape: { re: Float64Array.from(m.shape.re), im: Float64Array.from(m.shape.im) },
    });
    const whole = mergedShape([part(a, one.m), part(b, one.other)]);
    const known = new Map([a, b].flatMap((set) => set.facts!.responses.map((r) => [r.name, r.id] as const)));
    const [re, im] = whole.factors[1];
    return {
      motion: motionOf(
        frame,
        whole.shape,
        whole.names.map((n) => known.get(n)!),
      ),
      says: `${whole.names.length} responses of both, B times ${Math.hypot(re, im).toPrecision(3)} at ${Math.round((Math.atan2(im, re) * 180) / Math.PI)}° by the ${common.length} that they share`,
    };
  });

  let canvas: HTMLCanvasElement | undefined = $state();
  let box = $state({ width: 0, height: 0 });
  $effect(() => {
    void [night, box.width, box.height];
    if (!canvas) return;
    const [from, to] = [Math.min(a.fit.from, b.fit.from), Math.max(a.fit.to, b.fit.to)];
    const course = (set: SetView, colour: string) => {
      const made = lines[set.id];
      if (!made) return [];
      const { hz } = made.lines;
      // On one axis, whatever the distance of its lines.
      const at = (f: number) => {
        const k = Math.min(hz.length - 2, Math.floor(f / hz[1]));
        const share = f / hz[1] - k;
        const level = made.sum[k] * (1 - share) + made.sum[k + 1] * share;
        return 10 * Math.log10(level / made.lines.lags!.dtS || 1e-300);
      };
      return [{ values: Float64Array.from({ length: 800 }, (_, k) => at(from + ((to - from) * k) / 799)), colour }]; // prettier-ignore
    };
    const courses = [...course(a, traceColour(0, night)), ...course(b, traceColour(1, night))];
    drawPair(canvas, { from, to, unit: 'Hz', zero: false, ends: null, courses }, canvasInk(canvas));
  });
</script>

<div class="tabs" role="group" aria-label="How sets are compared">
  {#each [[false, 'One against another'], [true, 'All over a fact']] as const as [value, word] (word)}<button
      class:here={over === value}
      aria-pressed={over === value}
      onclick={() => (over = value)}>{word}</button
    >{/each}
</div>
{#if over}
  <RunsOver {view} {night} />
{:else}
  <div class="choose">
    {#each [{ word: 'A', get: () => base, put: (k: number) => (base = k) }, { word: 'B', get: () => against, put: (k: number) => (against = k) }] as side, s (side.word)}
      <label
        ><b style:color={traceColour(s, night)}>{side.word}</b>
        <select
          class="plain"
          value={side.get()}
          onchange={(e) => side.put(Number(e.currentTarget.value))}
          aria-label="Set {side.word}"
          >{#each view.sets as set, k (set.id)}<option value={k}>{k + 1} · {set.title}</option>{/each}</select
        ></label
      >
    {/each}
  </div>
  <div class="work">
    <section class="card" aria-label="Sums over each other">
      <h2>Sums over each other, dB</h2>
      <div class="box" bind:clientWidth={box.width} bind:clientHeight={box.height}>
        <canvas bind:this={canvas} aria-label="Sums of both sets over frequency"></canvas>
      </div>
    </section>
    <section class="card two" aria-label="Shapes beside each other">
      {#if one && merged}
        <ShapeCard
          title="{one.m.hz.toFixed(2)} Hz, merged"
          says={merged.says}
          {frame}
          shapes={[{ motion: merged.motion, colour: traceColour(0, night) }]}
          name="merged"
          {night}
          plain
        />
      {:else if one}
        <ShapeCard
          title="A {chosen + 1} · {one.m.hz.toFixed(2)} Hz"
          says={one.m.name}
          {frame}
          shapes={[{ motion: motion(a, one.m), colour: traceColour(0, night) }]}
          name="A"
          {night}
          plain
        />
        {#if one.other}<ShapeCard
            title="B {one.best + 1} · {one.other.hz.toFixed(2)} Hz"
            says={one.other.name}
            {frame}
            shapes={[{ motion: motion(b, one.other), colour: traceColour(1, night) }]}
            name="B"
            {night}
            plain
          />{/if}
      {/if}
    </section>
    <section class="card list" aria-label="Modes of both">
      <table class="plain">
        <thead
          ><tr
            ><th>A</th><th>seen as</th><th class="num">Hz of A</th><th class="num">of B</th><th class="num"
              >apart, %</th
            ><th class="num">damping of A, %</th><th class="num">of B</th><th class="num">MAC</th></tr
          ></thead
        >
        <tbody>
          {#each paired as { m, other, best, mac: alike }, k (k)}
            <tr class:chosen={k === chosen} onclick={() => (chosen = k)}>
              <td
                ><button class="number" aria-pressed={k === chosen} aria-label="Mode {k + 1} of A"
                  >{k + 1}</button
                ></td
              >
              <td class="as" title={m.name || other?.name}>{m.name || other?.name || ''}</td>
              <td class="num">{frequencyText(m.hz, m.expanded.hz)}</td>
              <td class="num">{other ? frequencyText(other.hz, other.expanded.hz) : 'not there'}</td>
              <td class="num">{other ? (100 * (other.hz / m.hz - 1)).toFixed(2).replace('-', '−') : ''}</td>
              <td class="num">{(100 * m.damping).toFixed(2)}</td>
              <td class="num">{other ? (100 * other.damping).toFixed(2) : ''}</td>
              <td class="num" title={other ? `mode ${best + 1} of B` : ''}>{other ? alike.toFixed(3) : ''}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
      {#if !a.modes || !b.modes}<p class="muted">Modes are compared once both sets have some.</p>{/if}
    </section>
    <section class="card mac" aria-label="Alike">
      {#if rows.length && columns.length}<MacPicture
          {rows}
          {columns}
          title="Alike (MAC), A downward, B across"
          label="Modal assurance criterion of set A against set B"
        />{/if}
      <p class="muted">Over the {common.length} responses that both have.</p>
    </section>
  </div>
{/if}

<style>
  .tabs {
    display: flex;
    gap: var(--space-4);
    font-size: var(--type-small);
  }
  .tabs button {
    color: var(--muted);
    border-bottom: 2px solid transparent;
  }
  .tabs .here {
    color: var(--ink);
    font-weight: 600;
    border-bottom-color: var(--plum);
  }
  .choose {
    display: flex;
    gap: var(--space-5);
  }
  .choose label {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    min-width: 0;
  }
  .work {
    display: grid;
    grid-template-columns: minmax(0, 1.35fr) minmax(0, 1fr);
    grid-template-rows: minmax(220px, 1.3fr) minmax(190px, 1fr);
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .card {
    padding: var(--space-3);
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
  }
  .two {
    flex-direction: row;
    padding: 0;
  }
  .list {
    overflow: auto;
  }
  .box {
    position: relative;
    flex: 1;
    min-height: 0;
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
  .chosen td {
    background: var(--tint);
  }
  .as {
    max-width: 130px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .number {
    font-weight: 600;
    min-width: 24px;
    text-align: left;
  }
  h2 {
    margin: 0 0 var(--space-2);
  }
</style>
