<!-- Files that are being made: how far each is, and what is to be said of it. -->
<script lang="ts">
  import FaultNote from '../kit/FaultNote.svelte';
  import type { OutgoingFiles } from './outgoing.svelte';

  type Props = { files: OutgoingFiles };
  let { files }: Props = $props();
</script>

{#if files.all.length}
  <aside class="card" aria-label="Files" role="status">
    {#each files.all as going (going.key)}
      <div data-testid="outgoing" data-state={going.state}>
        <p>
          <span class="name" title={going.name}>{going.name}</span>
          {#if going.state === 'making'}
            <progress max="1" value={going.share} aria-label={going.name}></progress>
            <span class="muted share">{Math.round(going.share * 100)} %</span>
            <button class="dotted" onclick={() => files.stop(going.key)}>stop</button>
          {:else if going.state === 'waiting'}
            <span class="muted">waits</span>
            <button class="dotted" onclick={() => files.stop(going.key)}>stop</button>
          {:else if going.state === 'saved'}
            <span class="muted">saved</span>
            {#if going.says.length}<button class="dotted" onclick={() => files.stop(going.key)}>close</button
              >{/if}
          {/if}
        </p>
        {#each going.says as line (line)}<p class="warning">{line}</p>{/each}
        {#if going.fault}<FaultNote fault={going.fault} onclose={() => files.stop(going.key)} />{/if}
      </div>
    {/each}
  </aside>
{/if}

<style>
  aside {
    position: fixed;
    right: var(--space-4);
    bottom: var(--space-4);
    z-index: 30;
    width: min(28rem, calc(100vw - 2 * var(--space-4)));
    max-height: 50vh;
    overflow: auto;
    padding: var(--space-2) var(--space-3);
    display: grid;
    gap: var(--space-2);
    font-size: var(--type-small);
  }
  p {
    margin: 0;
    display: flex;
    gap: var(--space-2);
    align-items: center;
  }
  .name {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-weight: 650;
  }
  progress {
    width: 6rem;
    accent-color: var(--plum-fill);
  }
  .share {
    width: 3rem;
    text-align: right;
  }
</style>
