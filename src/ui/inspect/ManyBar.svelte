<!-- What can be done with all takes that are marked. -->
<script lang="ts">
  import { call, faultText } from '../api';
  import { beside } from '../kit/beside';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    ids: string[];
    tags: readonly string[];
    none: () => void;
    judge: () => void;
    exportAll: () => void;
    bin: () => void;
    changed: () => void;
  };
  let { ids, tags, none, judge, exportAll, bin, changed }: Props = $props();
  const shell = useShell();
  let anchor = $state<HTMLElement | null>(null);
  let box = $state<HTMLElement | null>(null);
  let tag = $state('');

  async function put(put: string[], off: string[]) {
    try {
      await call('POST /api/tags', { body: { takes: ids, put, off } });
      [anchor, tag] = [null, ''];
      changed();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  function open(at: HTMLElement) {
    anchor = at;
    requestAnimationFrame(() => box?.querySelector('input')?.focus());
  }
</script>

<div class="card many" role="toolbar" aria-label="With the marked takes">
  <strong>{ids.length} marked</strong>
  <button class="dotted" onclick={(e) => open(e.currentTarget)}>tag</button>
  <button class="dotted" onclick={judge}>judge</button>
  <button class="dotted" onclick={exportAll}>export</button>
  <button class="dotted" onclick={bin}>to the bin</button>
  <button class="dotted" onclick={none}>none</button>
</div>
{#if anchor}
  <form
    class="tags"
    bind:this={box}
    {@attach beside(anchor)}
    onsubmit={(e) => {
      e.preventDefault();
      if (tag.trim()) void put([tag.trim()], []);
    }}
  >
    <label
      >Tag {ids.length} takes
      <input
        type="text"
        bind:value={tag}
        maxlength="40"
        list="known-tags"
        onkeydown={(e) => e.key === 'Escape' && (anchor = null)}
      /></label
    >
    <datalist id="known-tags"
      >{#each tags as known (known)}<option value={known}></option>{/each}</datalist
    >
    <p>
      <button class="dotted" disabled={!tag.trim()}>put it on</button>
      <button type="button" class="dotted" disabled={!tag.trim()} onclick={() => void put([], [tag.trim()])}
        >take it off</button
      >
    </p>
  </form>
{/if}
<svelte:window onpointerdown={(e) => anchor && !box?.contains(e.target as Node) && (anchor = null)} />

<style>
  .many {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-half) var(--space-3);
    padding: var(--space-2);
    font-size: var(--type-small);
    align-items: baseline;
  }
  .tags {
    position: fixed;
    left: 0;
    top: 0;
    z-index: 60;
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    box-shadow: 0 8px 26px rgb(38 33 29 / 0.16);
    padding: var(--space-2) var(--space-3);
  }
  .tags input {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-1) var(--space-2);
    font-size: var(--type-body);
  }
  p {
    margin: var(--space-1) 0 0;
    display: flex;
    gap: var(--space-3);
  }
  button:disabled {
    opacity: 0.5;
  }
</style>
