<!-- What a block of cells would change, cell by cell, and why some are refused; nothing is written before. -->
<script lang="ts">
  import { needsComma, type Comma } from '$contract/columns';
  import { Button } from 'flowbite-svelte';
  import type { CellsWritten, Followed } from '$contract/api/setup';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import Follows from './Follows.svelte';

  import type { PastedBlock } from './blocks';

  type Props = { block: PastedBlock; done: () => void };
  let { block, done }: Props = $props();

  const { cells, rows } = $derived(block);
  const texts = $derived([...cells, ...rows.flatMap((r) => r.cells)].map((c) => c.text));
  const asks = $derived(texts.some(needsComma));
  let comma = $state<Comma | null>(null);
  let results = $state.raw<CellsWritten['cells'] | null>(null);
  let fresh = $state.raw<CellsWritten['rows']>([]);
  let follows = $state.raw<Followed[]>([]);
  let fault = $state<FaultText | null>(null);
  const good = $derived(results?.filter((r) => r.fault === null) ?? []);
  const added = $derived(fresh.filter((r) => r.fault === null));
  const bad = $derived(results?.filter((r) => r.fault !== null) ?? []);

  $effect(() => {
    const meant = comma;
    call('POST /api/channels/cells', { body: { cells, rows, comma: meant, apply: false } }).then(
      (found) => {
        results = found.cells;
        fresh = found.rows;
        follows = found.follows;
      },
      (error) => (fault = faultText(error)),
    );
  });
  async function apply() {
    try {
      await call('POST /api/channels/cells', { body: { cells, rows, comma, apply: true } });
      done();
    } catch (error) {
      fault = faultText(error);
    }
  }
</script>

{#if asks}
  <fieldset>
    <legend>Some numbers have a comma, such as “{texts.find(needsComma)?.trim()}”. It is</legend>
    {#each ['decimal sign', 'between thousands'] as const as choice (choice)}
      <label
        ><input type="radio" bind:group={comma} value={choice} />
        {choice === 'decimal sign' ? 'the decimal sign' : 'between thousands'}</label
      >
    {/each}
  </fieldset>
{/if}
{#if fault}<FaultNote {fault} />{/if}
{#if results}
  {#if results.length + fresh.length === 0}<p class="muted">All these cells stand just so already.</p>{/if}
  <div class="wrap">
    <table class="plain">
      <thead><tr><th>Channel</th><th>Column</th><th>Now</th><th>Then</th></tr></thead>
      <tbody>
        {#each bad as r (`${r.id} ${r.key}`)}
          <tr class="bad"
            ><td>{r.channel}</td><td>{r.column}</td><td class="mono">{r.before}</td><td
              >◆ “{r.text.trim()}”: {r.fault}</td
            ></tr
          >
        {/each}
        {#each good.slice(0, 200) as r (`${r.id} ${r.key}`)}
          <tr
            ><td>{r.channel}</td><td>{r.column}</td><td class="mono">{r.before}</td><td class="mono next"
              >{r.after || 'nothing'}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
    {#if good.length > 200}<p class="muted">and {good.length - 200} more</p>{/if}
  </div>
  {#if fresh.length}
    <p>
      {fresh.length === 1 ? 'One row goes' : `${fresh.length} rows go`} below the last channel: new channels, like
      that one where nothing else is said.
    </p>
    <div class="wrap">
      <table class="plain">
        <tbody>
          {#each fresh as r, k (k)}
            <tr class:bad={r.fault}
              ><td>{r.name || 'without a name'}</td><td>{r.says}</td><td
                >{r.fault ? `◆ ${r.fault}` : 'new'}</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
  {#if follows.length}
    <p>Brought along:</p>
    <Follows {follows} />
  {/if}
  <div class="row">
    <Button size="sm" disabled={good.length + added.length === 0} onclick={() => void apply()}
      >{[
        (good.length || !added.length) && `Write ${good.length} cell${good.length === 1 ? '' : 's'}`,
        added.length &&
          `${good.length ? 'add' : 'Add'} ${added.length} channel${added.length === 1 ? '' : 's'}`,
      ]
        .filter(Boolean)
        .join(', ')}</Button
    >
    {#if bad.length}<span class="wrong">{bad.length} refused: they stay as they are.</span>{/if}
    {#if added.length < fresh.length}<span class="wrong"
        >{fresh.length - added.length} rows refused: they are not added.</span
      >{/if}
    <span class="muted">One undo takes it all back.</span>
  </div>
{/if}

<style>
  .wrap {
    max-height: 380px;
    overflow: auto;
  }
  .next {
    color: var(--plum);
    font-weight: 600;
  }
  .bad td:last-child,
  .wrong {
    color: var(--red);
  }
  fieldset {
    display: flex;
    gap: var(--space-4);
    align-items: center;
    margin-bottom: var(--space-2);
    flex-wrap: wrap;
  }
  legend {
    float: left;
    padding: 0;
  }
  .row {
    display: flex;
    gap: var(--space-3);
    align-items: center;
    margin-top: var(--space-3);
    font-size: var(--type-small);
  }
</style>
