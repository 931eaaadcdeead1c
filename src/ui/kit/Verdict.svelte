<!-- Says whether something is well, by a sign and a colour. -->
<script lang="ts">
  import type { Snippet } from 'svelte';

  type Props = {
    good?: boolean;
    /** How urgently it is read out: not at all where it was there from the start. */
    role?: 'status' | 'alert';
    children: Snippet;
  };
  let { good = false, role, children }: Props = $props();
</script>

<p class={good ? 'well' : 'bad'} {role}>
  <span aria-hidden="true">{good ? '✓' : '▲'}</span>
  {@render children()}
</p>

<style>
  p {
    margin: var(--space-2) 0 0;
  }
  .well {
    color: var(--moss);
  }
  .bad {
    color: var(--ochre);
  }
</style>
