<!-- What the points give: the line, how good it is, and what to do about a point that is off. -->
<script lang="ts">
  import { fixed, readingText } from '$core/readings';
  import type { CalibrationFit } from '$core/fit/forms';
  import type { FaultText } from '../api';
  import type { Fact } from '../kit/facts';
  import Facts from '../kit/Facts.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import Verdict from '../kit/Verdict.svelte';

  type Props = {
    fit: CalibrationFit | null;
    fault: FaultText | null;
    good: number;
    unit: string;
    axisUnit: string;
    /** Expanded uncertainty at the end of the range. */
    expanded: number | null;
    present: { slope: number } | null;
    worst: string | null;
    curved: boolean;
    oncurve: () => void;
  };
  let { fit, fault, good, unit, axisUnit, expanded, present, worst, curved, oncurve }: Props = $props();
  const bad = $derived(fit !== null && fit.largestResidual > good);
  const inForce = $derived<Fact[]>(
    present
      ? [
          {
            label: 'In force now',
            value: readingText(present.slope, { digits: 5 }),
            unit: `${unit}/${axisUnit}`,
            id: 'present-slope',
          },
        ]
      : [],
  );
  const facts = $derived.by((): Fact[] => {
    if (!fit) return inForce;
    const { slope, offset, largestResidual, linearity, hysteresis, rSquared, dof } = fit;
    const list: (Fact | false)[] = [
      { label: 'Slope', value: readingText(slope, { digits: 5 }), unit: `${unit}/${axisUnit}`, id: 'slope' },
      { label: 'Offset', value: readingText(offset, { digits: 4 }), unit, id: 'offset' },
      {
        label: 'Largest distance',
        value: readingText(largestResidual, { digits: 2 }),
        unit,
        doubtful: bad,
        id: 'largest',
      },
      dof > 0 && { label: 'Linearity', value: fixed(100 * linearity, 3), unit: '% of span' },
      !Number.isNaN(hysteresis) && {
        label: 'Hysteresis',
        value: readingText(hysteresis, { digits: 2 }),
        unit,
        id: 'hysteresis',
      },
      dof > 0 && { label: 'R²', value: rSquared > 0.9999999 ? '1.000000' : rSquared.toFixed(6) },
      expanded !== null &&
        dof > 0 && {
          label: 'Uncertainty',
          value: `± ${readingText(expanded, { digits: 2 })}`,
          unit: `${unit}, 95 %`,
          id: 'expanded',
        },
    ];
    return [...list.filter((fact) => fact !== false), ...inForce];
  });
</script>

<h2>Result</h2>
{#if fit}
  <Facts {facts} />
  {#if bad && worst}<Verdict>
      <strong>{worst} is {readingText(fit.largestResidual, { digits: 2 })} {unit} off the line.</strong> Measure
      it again, or leave it out with a reason.
    </Verdict>{/if}
  {#if curved}<Verdict>
      <strong>The distances bend.</strong> A straight line does not fit this sensor:
      <button class="dotted" onclick={oncurve}>fit a parabola</button>.
    </Verdict>{/if}
{:else if fault}<FaultNote {fault} />
{:else}
  <p class="muted">Two points make a line, three show how good it is.</p>
  <Facts {facts} />
{/if}

<style>
  p {
    margin: var(--space-2) 0 0;
  }
</style>
