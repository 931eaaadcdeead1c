<!-- A fault in its sentences: what, where, why, next step. Stays until it is read. -->
<script lang="ts">
  import type { FaultText } from '../api';

  type Props = { fault: FaultText; onclose?: () => void };
  let { fault, onclose }: Props = $props();
</script>

<div class="fault" role="alert">
  <span class="sign" aria-hidden="true">◆</span>
  <p>
    <strong>{fault.what}</strong>
    {fault.why ?? ''}
    {fault.next ?? ''}
  </p>
  {#if onclose}<button onclick={onclose} aria-label="Dismiss">✕</button>{/if}
</div>

<style>
  .fault {
    display: flex;
    gap: var(--space-2);
    padding: var(--space-2) var(--space-3);
    border: 1px solid var(--red);
    border-radius: var(--radius);
    background: color-mix(in srgb, var(--red) 7%, var(--card));
  }
  .sign {
    color: var(--red);
  }
  p {
    flex: 1;
    margin: 0;
  }
</style>
