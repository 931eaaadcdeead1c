<script lang="ts">
  import { readingText } from '$core/readings';
  import type { Finding } from '$core/studies/study';

  type Props = { findings: Finding[] };
  let { findings }: Props = $props();
  /** Counts are whole: no digits are made up, long ones are in groups of three. */
  const text = ({ value, unit }: Finding) =>
    unit === '1' && Number.isInteger(value) && Math.abs(value) < 1e12
      ? value.toLocaleString('en').replaceAll(',', '\u2009')
      : readingText(value);
</script>

<dl>
  {#each findings as finding (finding.label)}
    <dt>{finding.label}</dt>
    <dd class="mono">{text(finding)}</dd>
    <dd class="muted">{finding.unit === '1' ? '' : finding.unit}</dd>
    <dd class="muted note" title={finding.note}>{finding.note ?? ''}</dd>
  {/each}
</dl>

<style>
  dl {
    display: grid;
    grid-template-columns: minmax(9em, auto) max-content max-content minmax(0, 1fr);
    margin: var(--space-1) 0 0;
  }
  dt,
  dd {
    padding: var(--space-1) var(--space-2) var(--space-1) 0;
    border-bottom: 1px solid var(--hair);
    margin: 0;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  dd.mono {
    font-size: var(--type-reading);
    text-align: right;
  }
  .muted {
    align-content: center;
    font-size: var(--type-small);
  }
</style>
