<!-- What can be done with all takes that are marked. -->
<script lang="ts">
  import { call, faultText } from '../api';
  import FloatBox from '../kit/FloatBox.svelte';
  import AsSpreadsheet from '../spreadsheets/AsSpreadsheet.svelte';
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
</script>

<div class="card many" role="toolbar" aria-label="With the marked takes">
  <strong>{ids.length} marked</strong>
  <button class="dotted" onclick={(e) => (anchor = e.currentTarget)}>tag</button>
  <button class="dotted" onclick={judge}>judge</button>
  <button class="dotted" onclick={exportAll}>export</button>
  <AsSpreadsheet of={{ takes: ids }} name={ids.length === 1 ? '1 take' : `${ids.length} takes`} />
  <button class="dotted" onclick={bin}>to the bin</button>
  <button class="dotted" onclick={none}>none</button>
</div>
{#if anchor}
  <FloatBox {anchor} label="Tag" close={() => (anchor = null)}>
    <form
      class="tags"
      onsubmit={(e) => {
        e.preventDefault();
        if (tag.trim()) void put([tag.trim()], []);
      }}
    >
      <label
        >Tag {ids.length} takes <input type="text" bind:value={tag} maxlength="40" list="known-tags" /></label
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
  </FloatBox>
{/if}

<style>
  .many {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-half) var(--space-3);
    padding: var(--space-2);
    font-size: var(--type-small);
    align-items: baseline;
  }
  p {
    margin: var(--space-1) 0 0;
    display: flex;
    gap: var(--space-3);
  }
</style>
