<!-- Any pair: its correlation over lag with and without the window, its cross power, and how far it has died out. By keys from pair to pair. -->
<script lang="ts">
  import type { Correlations } from '$core/modal/correlations';
  import { RINGS_BEFORE } from '$core/modal/driving';
  import { halfSpectra } from '$core/modal/half-spectra';
  import { referenceOf, type SetView } from '$contract/modal';
  import type { SetLines } from './lines.worker';
  import { inDb } from './pair-plot';
  import PairPicture from './PairPicture.svelte';
  import { percentText } from './words';

  type Props = { set: SetView; correlations: Correlations; coherence: Float32Array | null; made: SetLines; night: boolean }; // prettier-ignore
  let { set, correlations, coherence, made, night }: Props = $props();
  let pair = $state(0);
  const facts = $derived(set.facts!);
  const pairs = $derived(correlations.responses * correlations.references);
  const at = $derived(Math.min(pair, pairs - 1));
  const step = (by: number) => (pair = (at + by + pairs) % pairs);
  const bare = $derived(correlations.values.subarray(at * correlations.lags, (at + 1) * correlations.lags));
  // The very end of an impulse response holds what rings before its beginning.
  const shown = $derived(correlations.lags - (coherence ? RINGS_BEFORE : 0));
  const under = $derived(bare.map((v, k) => v * Math.exp(-made.decay * k * correlations.dtS)));
  const called = $derived(
    `${facts.responses[Math.floor(at / correlations.references)]?.name} ${coherence ? 'to' : 'with'} ${referenceOf(facts, at % correlations.references)?.name}`,
  );
  const time = $derived({
    from: 0,
    to: shown * correlations.dtS,
    unit: 's',
    zero: true,
    ends: null,
    courses: [
      { values: bare.subarray(0, shown), ink: 'muted' as const },
      { values: under.subarray(0, shown), ink: 'plum' as const },
    ],
  });
  const power = $derived.by(() => {
    const n = made.lines.hz.length;
    const whole = bare.slice();
    whole.fill(0, shown);
    const alone = halfSpectra({ ...correlations, responses: 1, references: 1, values: whole });
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
  /** Of the same lines, 0 to 1. */
  const explained = $derived.by(() => {
    if (!coherence) return null;
    const n = made.lines.hz.length;
    const [first, last] = [
      Math.round(power.from / made.lines.hz[1]),
      Math.round(power.to / made.lines.hz[1]),
    ];
    return {
      ...{ from: power.from, to: power.to, unit: 'Hz', zero: false, ends: [0, 1.05] as [number, number] },
      courses: [{ values: coherence.subarray(at * n + first, at * n + last + 1), ink: 'plum' as const }],
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
      >{coherence ? `coherence ${facts.coherence[at]?.toFixed(3)} in the mean; ` : ''}{percentText(
        left[0] ?? 0,
      )} left at the
      {coherence ? 'end' : 'last lag'}, {percentText(left[1] ?? 0)} under the window</span
    >
  </p>
  <div class="two">
    <PairPicture
      drawn={time}
      {night}
      {step}
      caption={coherence ? 'impulse response' : 'correlation over lag'}
      label="{coherence
        ? 'Impulse response'
        : 'Correlation over lag'} of {called}, with and without the window"
    />
    <PairPicture
      drawn={power}
      {night}
      {step}
      caption={coherence ? 'response, dB' : 'cross power, dB'}
      label="{coherence
        ? 'Frequency response'
        : 'Cross power'} of {called} in dB, with and without the window"
    />
    {#if explained}<PairPicture
        drawn={explained}
        {night}
        {step}
        caption="coherence"
        label="Coherence of {called}, 0 to 1"
      />{/if}
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
