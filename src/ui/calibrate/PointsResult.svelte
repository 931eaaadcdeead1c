<!-- What the points give: the line, how good it is, and what to do about a point that is off. -->
<script lang="ts">
  import { fixed, readingText } from '$core/readings';
  import type { CalibrationFit } from '$core/fit/forms';
  import type { FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';

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
</script>

<h2>Result</h2>
{#if fit}
  <dl>
    <dt>Slope</dt>
    <dd class="mono" data-testid="slope">{readingText(fit.slope, { digits: 5 })}</dd>
    <dd class="muted">{unit}/{axisUnit}</dd>
    <dt>Offset</dt>
    <dd class="mono" data-testid="offset">{readingText(fit.offset, { digits: 4 })}</dd>
    <dd class="muted">{unit}</dd>
    <dt>Largest distance</dt>
    <dd class="mono" class:bad data-testid="largest">
      {bad ? '▲ ' : ''}{readingText(fit.largestResidual, { digits: 2 })}
    </dd>
    <dd class="muted">{unit}</dd>
    {#if fit.dof > 0}
      <dt>Linearity</dt>
      <dd class="mono">{fixed(100 * fit.linearity, 3)}</dd>
      <dd class="muted">% of span</dd>
    {/if}
    {#if !Number.isNaN(fit.hysteresis)}
      <dt>Hysteresis</dt>
      <dd class="mono" data-testid="hysteresis">{readingText(fit.hysteresis, { digits: 2 })}</dd>
      <dd class="muted">{unit}</dd>
    {/if}
    {#if fit.dof > 0}
      <dt>R²</dt>
      <dd class="mono">{fit.rSquared > 0.9999999 ? '1.000000' : fit.rSquared.toFixed(6)}</dd>
      <dd></dd>
    {/if}
    {#if expanded !== null && fit.dof > 0}
      <dt>Uncertainty</dt>
      <dd class="mono" data-testid="expanded">± {readingText(expanded, { digits: 2 })}</dd>
      <dd class="muted">{unit}, 95 %</dd>
    {/if}
    {#if present}
      <dt>In force now</dt>
      <dd class="mono" data-testid="present-slope">{readingText(present.slope, { digits: 5 })}</dd>
      <dd class="muted">{unit}/{axisUnit}</dd>
    {/if}
  </dl>
  {#if bad && worst}<p class="bad">
      <strong>▲ {worst} is {readingText(fit.largestResidual, { digits: 2 })} {unit} off the line.</strong> Measure
      it again, or leave it out with a reason.
    </p>{/if}
  {#if curved}<p class="bad">
      <strong>▲ The distances bend.</strong> A straight line does not fit this sensor:
      <button class="dotted" onclick={oncurve}>fit a parabola</button>.
    </p>{/if}
{:else if fault}<FaultNote {fault} />
{:else}
  <p class="muted">Two points make a line, three show how good it is.</p>
  {#if present}<dl>
      <dt>In force now</dt>
      <dd class="mono" data-testid="present-slope">{readingText(present.slope, { digits: 5 })}</dd>
      <dd class="muted">{unit}/{axisUnit}</dd>
    </dl>{/if}
{/if}

<style>
  .bad {
    color: var(--ochre);
  }
  p {
    margin: var(--space-2) 0 0;
  }
  dl {
    display: grid;
    grid-template-columns: 1fr auto 68px;
  }
  dt,
  dd {
    padding: var(--space-1) 0 var(--space-1) var(--space-2);
    border-bottom: 1px solid var(--hair);
    margin: 0;
  }
  dt {
    padding-left: 0;
    white-space: nowrap;
  }
  dd.mono {
    font-size: var(--type-reading);
    text-align: right;
    white-space: nowrap;
  }
  dd.muted {
    font-size: var(--type-small);
    align-content: center;
    white-space: nowrap;
    overflow: hidden;
  }
</style>
