<!-- The stabilization diagram with what is drawn behind the poles, and what of them is hidden. -->
<script lang="ts">
  import type { FitResult } from '$core/modal/analysis';
  import { HARMONIC_RULE } from '$core/modal/harmonics';
  import { CLUSTER_RULE, poleDensity, type PlaceOfPole } from '$core/modal/stability';
  import type { SetView } from '$contract/modal';
  import { traceColour } from '$contract/palette';
  import FloatBox from '../kit/FloatBox.svelte';
  import type { SetLines } from './lines.worker';
  import StabilityPicture from './StabilityPicture.svelte';
  import type { Behind } from './stability-plot';

  type Props = {
    set: SetView;
    made: SetLines;
    fit: FitResult | null;
    night: boolean;
    pick: (place: PlaceOfPole) => void;
    hover: (place: PlaceOfPole | null) => void;
    bandTo: (edge: 'from' | 'to', hz: number) => void;
  };
  let { set, made, fit, night, pick, hover, bandTo }: Props = $props();
  const SHOWN = ['singular values', 'mode indicators', 'the sum alone'] as const;
  let showing = $state<(typeof SHOWN)[number]>('singular values');
  let dense = $state(false);
  let asked = $state<HTMLElement | null>(null);

  const behind = $derived.by((): Behind[] => {
    const sum = { name: 'Sum', values: made.sum, colour: night ? '#ede7df' : '#26211d' };
    const of = showing === 'singular values' ? made.singular : showing === 'mode indicators' ? made.multivariate : []; // prettier-ignore
    const first = showing === 'singular values' ? 'first singular value' : 'first indicator';
    return [
      sum,
      ...of.slice(0, 3).map((values, k) => ({
        name: [first, 'second', 'third'][k],
        values,
        colour: traceColour([3, 4, 2][k], night),
        plain: showing === 'mode indicators',
      })),
    ];
  });
  const orders = $derived(fit?.orders ?? []);
  const picked = $derived(set.picks.map((p) => ({ order: p.order, hz: p.hz, name: p.name, out: p.out })));
  const suggested = $derived(
    set.suggested
      .filter((s) => !set.picks.some((p) => Math.abs(p.hz / s.hz - 1) < 0.003))
      .map((s) => ({ order: s.order, index: s.index, hz: s.hz, harmonic: s.harmonic.is, multiple: s.harmonic.multiple })), // prettier-ignore
  );
  const topOrder = $derived(Math.max(set.fit.order, ...orders.map((o) => o.order), 4));
  const density = $derived(dense && fit ? poleDensity(orders, { fromHz: set.fit.from, toHz: set.fit.to }, 120) : null); // prettier-ignore
  const left = $derived.by(() => {
    const sum = { negative: 0, heavy: 0, real: 0, outside: 0 };
    for (const { left: of } of orders)
      for (const key of Object.keys(sum) as (keyof typeof sum)[]) sum[key] += of[key];
    return sum;
  });
</script>

<section class="card diagram" aria-label="Poles over order">
  <p class="legend">
    {#each behind as b (b.name)}<span style:color={b.colour} class="name">{b.name}</span>{/each}
    <select class="plain" bind:value={showing} aria-label="Behind the poles"
      >{#each SHOWN as o (o)}<option value={o}>{o}</option>{/each}</select
    >
    <label><input type="checkbox" bind:checked={dense} />density</label>
    <button class="dotted asked" aria-haspopup="dialog" onclick={(e) => (asked = e.currentTarget)}
      >how it is judged</button
    >
  </p>
  <StabilityPicture
    hz={made.lines.hz}
    sum={made.sum}
    behind={[...behind].reverse()}
    {orders}
    {topOrder}
    band={{ from: set.fit.from, to: set.fit.to }}
    {picked}
    {suggested}
    {density}
    {night}
    {pick}
    {hover}
    {bandTo}
  />
  <p class="muted foot">
    <span class="marks"
      ><i class="new"></i> new <i></i> frequency at rest <i class="half"></i> damping too <i class="full"></i> shape
      too</span
    >
    Hidden: {left.negative} with negative damping, {left.heavy} over 20 %, {left.real} without a conjugate, {left.outside}
    outside the band.
  </p>
</section>
{#if asked}
  <FloatBox anchor={asked} label="How it is judged" close={() => (asked = null)}>
    <div class="rules">
      <p>{CLUSTER_RULE}</p>
      <p>{HARMONIC_RULE}</p>
      <p>
        A click picks a pole, a drag over a column the best of it: of those at rest the nearest to their
        median. An edge of the band snaps into a valley; with Alt it stays where it is put.
      </p>
    </div>
  </FloatBox>
{/if}

<style>
  .diagram {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
    padding: var(--space-2) var(--space-2) var(--space-1);
  }
  .legend {
    margin: 0;
    padding: 0 var(--space-2);
    display: flex;
    gap: var(--space-3);
    align-items: center;
    font-size: var(--type-small);
    white-space: nowrap;
    overflow: hidden;
  }
  .legend > * {
    flex-shrink: 0;
  }
  .legend select {
    font-size: var(--type-small);
  }
  .legend .name {
    font-weight: 600;
  }
  .legend label {
    display: flex;
    gap: var(--space-1);
    align-items: center;
  }
  .asked {
    margin-left: auto;
  }
  .foot {
    margin: 0;
    padding: 0 var(--space-2);
    font-size: var(--type-fine);
  }
  .marks {
    float: right;
  }
  .marks i {
    display: inline-block;
    width: 8px;
    height: 8px;
    border: 1.5px solid var(--plum);
    border-radius: 50%;
    margin-left: var(--space-2);
  }
  .marks .new {
    width: 2px;
    height: 2px;
    border: 0;
    background: var(--muted);
    vertical-align: middle;
  }
  .marks .half {
    background: linear-gradient(to bottom, transparent 50%, var(--plum) 50%);
  }
  .marks .full {
    background: var(--plum);
  }
  .rules p {
    margin: 0 0 var(--space-2);
    font-size: var(--type-small);
  }
</style>
