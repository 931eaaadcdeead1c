<!-- Any pair: its correlation over lag with and without the window, its cross power, and how far it has died out. By keys from pair to pair. -->
<script lang="ts">
  import type { Correlations } from '$core/modal/correlations';
  import { halfSpectra } from '$core/modal/half-spectra';
  import type { SetView } from '$contract/modal';
  import type { SetLines } from './lines.worker';
  import { inDb } from './pair-plot';
  import PairPicture from './PairPicture.svelte';
  import { percentText } from './words';

  type Props = { set: SetView; correlations: Correlations; made: SetLines; night: boolean };
  let { set, correlations, made, night }: Props = $props();
  let pair = $state(0);
  const facts = $derived(set.facts!);
  const pairs = $derived(correlations.responses * correlations.references);
  const at = $derived(Math.min(pair, pairs - 1));
  const step = (by: number) => (pair = (at + by + pairs) % pairs);
  const bare = $derived(correlations.values.subarray(at * correlations.lags, (at + 1) * correlations.lags));
  const under = $derived(bare.map((v, k) => v * Math.exp(-made.decay * k * correlations.dtS)));
  const called = $derived(
    `${facts.responses[Math.floor(at / correlations.references)]?.name} with ${facts.responses[facts.references[at % correlations.references]]?.name}`,
  );
  const time = $derived({
    from: 0,
    to: correlations.lags * correlations.dtS,
    unit: 's',
    zero: true,
    ends: null,
    courses: [
      { values: bare, ink: 'muted' as const },
      { values: under, ink: 'plum' as const },
    ],
  });
  const power = $derived.by(() => {
    const n = made.lines.hz.length;
    const alone = halfSpectra({ ...correlations, responses: 1, references: 1, values: bare.slice() });
    const first = Math.max(1, Math.round(set.fit.from * 0.7 * correlations.lags * correlations.dtS));
    const last = Math.min(n - 1, Math.round(set.fit.to * 1.15 * correlations.lags * correlations.dtS)) + 1;
    return {
      from: made.lines.hz[first],
      to: made.lines.hz[last - 1],
      unit: 'Hz',
      zero: false,
      ends: null,
      courses: [
        { values: inDb(alone.re, alone.im).subarray(first, last), ink: 'muted' as const },
        { values: inDb(made.lines.re.subarray(at * n, (at + 1) * n), made.lines.im.subarray(at * n, (at + 1) * n)).subarray(first, last), ink: 'plum' as const }, // prettier-ignore
      ],
    };
  });
  const left = $derived([facts.left[at], facts.leftUnder[at]]);
</script>

<div class="pairs">
  <p class="says">
    <button class="dotted" aria-label="The pair before" onclick={() => step(-1)}>‹</button>
    <span>{called}</span>
    <button class="dotted" aria-label="The next pair" onclick={() => step(1)}>›</button>
    <span class="muted"
      >at the last lag {percentText(left[0] ?? 0)} of its beginning is left, {percentText(left[1] ?? 0)} under the
      window</span
    >
  </p>
  <div class="two">
    <PairPicture
      drawn={time}
      {night}
      {step}
      label="Correlation over lag of {called}, with and without the window"
    />
    <PairPicture
      drawn={power}
      {night}
      {step}
      label="Cross power of {called} in dB, with and without the window"
    />
  </div>
</div>

<style>
  .pairs {
    display: flex;
    flex-direction: column;
    flex: 1;
    min-height: 0;
    gap: var(--space-1);
  }
  .two {
    display: flex;
    gap: var(--space-4);
    flex: 1;
    min-height: 0;
  }
  .says {
    margin: 0;
    display: flex;
    flex-wrap: wrap;
    gap: 0 var(--space-2);
    align-items: center;
    font-size: var(--type-small);
  }
</style>
