<!-- Numbers under each other: what each is, its value, its unit. -->
<script lang="ts">
  import type { Fact } from './facts';

  type Props = { facts: readonly Fact[] };
  let { facts }: Props = $props();
</script>

<dl>
  {#each facts as { label, value, unit, doubtful, id } (label)}
    <dt>{label}</dt>
    <dd class="mono" class:doubtful data-testid={id}>{doubtful ? '▲ ' : ''}{value}</dd>
    <dd class="muted">{unit ?? ''}</dd>
  {/each}
</dl>

<style>
  dl {
    display: grid;
    grid-template-columns: 1fr auto 72px;
    margin-top: var(--space-1);
  }
  dt,
  dd {
    padding: var(--space-1) 0 var(--space-1) var(--space-2);
    border-bottom: 1px solid var(--hair);
    margin: 0;
    white-space: nowrap;
  }
  dt {
    padding-left: 0;
  }
  dd.mono {
    font-size: var(--type-reading);
    text-align: right;
  }
  dd.muted {
    font-size: var(--type-small);
    align-content: center;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .doubtful {
    color: var(--ochre);
  }
</style>
