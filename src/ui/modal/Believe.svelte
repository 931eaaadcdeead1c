<!-- Whether the modes can be believed: how alike their shapes are, and the functions put together again against what was measured. -->
<script lang="ts">
  import { together } from '$core/modal/residues';
  import { within } from '$core/modal/half-spectra';
  import { referenceOf, type ModesView, type SetView } from '$contract/modal';
  import type { SetLines } from './lines.worker';
  import MacPicture from './MacPicture.svelte';
  import { inDb } from './pair-plot';
  import PairPicture from './PairPicture.svelte';

  type Props = { set: SetView; modes: ModesView; made: SetLines; night: boolean };
  let { set, modes, made, night }: Props = $props();
  let pair = $state(0);
  let rest = $state(false);
  const facts = $derived(set.facts!);
  const references = $derived(facts.references.length);
  const pairs = $derived(facts.responses.length * references);
  const at = $derived(Math.min(pair, pairs - 1));
  const [response, reference] = $derived([Math.floor(at / references), at % references]);
  const lines = $derived.by(() => {
    try {
      return within(made.lines, set.fit.from, set.fit.to);
    } catch {
      return null; // the band is being changed
    }
  });
  const shapes = $derived(
    modes.modes.map((m, k) => ({
      name: `${k + 1}`,
      shape: { re: Float64Array.from(m.shape.re), im: Float64Array.from(m.shape.im) },
    })),
  );
  const model = $derived({
    modes: modes.parts.map((p) => ({
      ...p,
      shape: { re: Float64Array.from(p.shape.re), im: Float64Array.from(p.shape.im) },
      participation: { re: Float64Array.from(p.participation.re), im: Float64Array.from(p.participation.im) },
    })),
    residuals: modes.residuals.map((r) => Float64Array.from(r)),
  });
  const drawn = $derived.by(() => {
    if (!lines || model.residuals.length !== pairs) return null;
    const n = lines.hz.length;
    const made = together(
      lines,
      model,
      response,
      reference,
      references,
      set.correlate.left < 100 ? decay : 0,
    );
    const [re, im] = [lines.re.subarray(at * n, (at + 1) * n), lines.im.subarray(at * n, (at + 1) * n)];
    const left = inDb(re.map((v, k) => v - made.re[k]), im.map((v, k) => v - made.im[k])); // prettier-ignore
    const measured = inDb(re, im);
    const high = Math.max(...measured);
    return {
      from: lines.hz[0],
      to: lines.hz[n - 1],
      unit: 'Hz',
      zero: false,
      ends: [Math.min(Math.max(Math.min(...measured), high - 90), high - 20) - 3, high + 3] as [
        number,
        number,
      ],
      courses: [
        ...(rest ? [{ values: left, ink: 'muted' as const }] : []),
        { values: measured, ink: 'ink' as const },
        { values: inDb(made.re, made.im), ink: 'plum' as const },
      ],
    };
  });
  const decay = $derived(made.decay);
  const met = $derived(modes.met[at] ?? NaN);
  const step = (by: number) => (pair = (at + by + pairs) % pairs);
</script>

<div class="believe">
  <div class="alike">
    <MacPicture
      rows={shapes}
      columns={shapes}
      title="Alike (MAC)"
      label="Modal assurance criterion of the modes with each other"
      most={modes.modes.length > 8 ? 14 : 19}
    />
  </div>
  <div class="again">
    <h2>
      Put together again <span class="muted">all to {(100 * modes.metAll).toFixed(1)} %</span>
      <label><input type="checkbox" bind:checked={rest} />rest</label>
    </h2>
    <p class="says">
      <button class="dotted" aria-label="The pair before" onclick={() => step(-1)}>‹</button>
      <span
        >{facts.responses[response]?.name}
        {facts.forces.length ? 'to' : 'with'}
        {referenceOf(facts, reference)?.name}</span
      >
      <button class="dotted" aria-label="The next pair" onclick={() => step(1)}>›</button>
      <span class="muted met">to {Number.isFinite(met) ? (100 * met).toFixed(1) : '–'} %</span>
    </p>
    {#if drawn}<PairPicture
        {drawn}
        {night}
        {step}
        label="Measured and put together again, in dB: {facts.responses[response]?.name}"
      />{/if}
    {#if modes.rankLoss}<p class="late">
        Some of these modes cannot be told apart with these references: take one out, or add a reference.
      </p>{/if}
  </div>
</div>

<style>
  .believe {
    display: flex;
    gap: var(--space-4);
    flex: 1;
    min-height: 0;
  }
  .again {
    flex: 1;
    display: flex;
    flex-direction: column;
    min-width: 0;
  }
  h2 {
    margin: 0 0 var(--space-1);
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
    white-space: nowrap;
  }
  h2 span {
    font-weight: 400;
    font-size: var(--type-small);
  }
  .says {
    margin: 0;
    display: flex;
    gap: var(--space-2);
    align-items: center;
    font-size: var(--type-small);
    white-space: nowrap;
  }
  .says > span:first-of-type {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  label {
    display: flex;
    gap: var(--space-1);
    align-items: center;
    margin-left: auto;
    font-weight: 400;
    font-size: var(--type-small);
  }
  .late {
    color: var(--ochre);
    margin: var(--space-1) 0 0;
    font-size: var(--type-small);
  }
</style>
