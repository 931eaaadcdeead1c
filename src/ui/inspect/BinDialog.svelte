<!-- The bin: what lies in it, how much disk emptying it frees, and the way back. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import type { TakeLine } from '$contract/take-list';
  import { call, faultText, type FaultText } from '../api';
  import Dialog from '../kit/Dialog.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import { takeTag } from '../take/labels';

  type Props = { open: boolean; changed: () => void };
  let { open = $bindable(), changed }: Props = $props();
  let held = $state.raw<{ takes: TakeLine[]; bytes: number }>({ takes: [], bytes: 0 });
  let fault = $state<FaultText | null>(null);
  let sure = $state(false);
  let busy = $state(false);

  async function look() {
    try {
      held = await call('GET /api/bin');
      fault = null;
    } catch (error) {
      fault = faultText(error);
    }
  }
  $effect(() => {
    if (open) {
      sure = false;
      void look();
    }
  });
  async function act(work: () => Promise<unknown>) {
    busy = true;
    try {
      await work();
      fault = null;
      changed();
      await look();
    } catch (error) {
      fault = faultText(error);
    } finally {
      busy = false;
    }
  }
  const size = $derived(
    held.bytes < 1e6 ? `${Math.ceil(held.bytes / 1000)} kB` : `${(held.bytes / 1e6).toFixed(1)} MB`,
  );
</script>

<Dialog bind:open title="Bin" size="sm">
  {#if held.takes.length === 0}
    <p class="muted">Nothing lies in the bin.</p>
  {:else}
    <ul>
      {#each held.takes as take (take.id)}
        <li>
          <span class="name"><strong>{take.name}</strong> <span class="muted">{takeTag(take)}</span></span>
          <button
            class="dotted"
            disabled={busy}
            onclick={() => void act(() => call('POST /api/bin', { body: { takes: [take.id], out: true } }))}
            >take it out</button
          >
        </li>
      {/each}
    </ul>
    {#if sure}
      <p>
        {held.takes.length === 1 ? '1 take is' : `${held.takes.length} takes are`} deleted for good, with all samples:
        nothing brings them back. {size} of disk become free. Export them first if in doubt.
      </p>
      <div class="act">
        <Button
          size="sm"
          disabled={busy}
          onclick={() => void act(() => call('DELETE /api/bin')).then(() => (sure = false))}
          >Delete them for good</Button
        >
        <Button size="sm" color="alternative" onclick={() => (sure = false)}>Leave them there</Button>
      </div>
    {:else}
      <p class="muted" data-testid="frees">Emptying it frees {size} of disk.</p>
      <Button size="sm" color="alternative" onclick={() => (sure = true)}>Empty it …</Button>
    {/if}
  {/if}
  {#if fault}<FaultNote {fault} />{/if}
</Dialog>

<style>
  ul {
    max-height: 300px;
    overflow: auto;
  }
  li {
    display: flex;
    gap: var(--space-3);
    padding: var(--space-1) 0;
  }
  .name {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  p {
    margin: var(--space-2) 0;
  }
  .act {
    display: flex;
    gap: var(--space-2);
  }
</style>
