<!-- The run in letters that can be read from the rig, two metres away. -->
<script lang="ts">
  import type { PointsRunState } from './points-run.svelte';

  type Props = { state: PointsRunState; reading: string; onclose: () => void };
  let { state: run, reading, onclose }: Props = $props();

  const at = $derived(run.measuring ?? run.next);
  const point = $derived(at >= 0 ? run.planned[at] : null);
  const done = $derived(run.taken.filter(Boolean).length);
</script>

<div class="far" role="dialog" aria-label="Large type">
  <div class="line muted">
    <span>{run.main.name}</span><span>{done} of {run.taken.length}</span>
    <button onclick={onclose}>small type <kbd>L</kbd></button>
  </div>
  {#if point}
    <div class="set">set {point.going === 'down' ? 'down to' : 'to'}</div>
    <div class="target mono">{point.target}<small>{run.run.unit}</small></div>
  {:else}<div class="target">all measured</div>{/if}
  <div class="now mono">{reading}<small>{run.run.unit}</small></div>
  <div class="says" class:busy={run.measuring !== null} role="status">
    {#if run.fault}◆ {run.fault.what}
    {:else if run.measuring !== null}{run.says}
    {:else if point}Space when it is set
    {:else}Enter accepts{/if}
  </div>
</div>

<style>
  .far {
    position: fixed;
    inset: 0;
    z-index: 40;
    background: var(--paper);
    display: grid;
    grid-template-rows: auto auto 1.4fr 1fr auto;
    padding: var(--space-5) var(--space-8);
  }
  .line {
    display: flex;
    gap: var(--space-8);
    font-size: var(--type-display);
  }
  .line button {
    margin-left: auto;
    font-size: var(--type-reading);
  }
  .set {
    font-size: 40px;
    color: var(--plum);
  }
  .target {
    font-size: min(24vh, 17vw);
    line-height: 1;
    font-weight: 700;
    align-self: center;
  }
  .now {
    font-size: min(15vh, 11vw);
    line-height: 1;
    color: var(--muted);
    align-self: center;
  }
  small {
    font-size: 0.32em;
    margin-left: 0.3em;
  }
  .says {
    font-size: var(--type-display);
    min-height: 1.6em;
  }
  .busy {
    color: var(--ochre);
  }
</style>
