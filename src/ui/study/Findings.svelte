<script lang="ts">
  import { readingText } from '$core/readings';
  import type { Finding } from '$core/studies/study';

  type Props = { findings: Finding[] };
  let { findings }: Props = $props();
</script>

<dl>
  {#each findings as finding (finding.label)}
    <dt>{finding.label}</dt>
    <dd class="mono">{readingText(finding.value)}</dd>
    <dd class="muted">{finding.unit}</dd>
    <dd class="muted note">{finding.note ?? ''}</dd>
  {/each}
</dl>

<style>
  dl {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto auto auto;
    margin: 4px 0 0;
  }
  dt,
  dd {
    padding: 4px 10px 4px 0;
    border-bottom: 1px solid var(--hair);
    margin: 0;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  dd.mono {
    font-size: 16px;
    text-align: right;
  }
  .muted {
    align-content: center;
    font-size: 12.5px;
  }
</style>
