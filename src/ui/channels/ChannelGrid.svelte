<!-- The channels as a grid: chosen columns, groups, search, blocks of cells to copy, paste, fill and write, order by hand. -->
<script lang="ts">
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { get } from 'svelte/store';
  import { tick } from 'svelte';
  import { COLUMNS, blockText, cellText } from '$contract/columns';
  import type { Channel } from '$contract/channel';
  import { traceColour } from '$contract/palette';
  import { useShell } from '../shell/shell.svelte';

  import {
    blockOf,
    filledDown,
    isEditable,
    isIn,
    moved,
    pastedInto,
    stepOf,
    writtenInto,
    type Cell,
    type PastedBlock,
  } from './blocks';
  import CellInput from './CellInput.svelte';
  import CellView from './CellView.svelte';
  import { gridItems, gridOptions, gridText } from './grid';

  type Props = {
    channels: Channel[];
    columns: string[];
    search: string;
    chosenId: string | null;
    scales: string[];
    choose: (id: string) => void;
    /** Shows what a block of cells would change. */
    preview: (block: PastedBlock) => void;
    /** Writes cells at once. @returns why not, or null */
    write: (cells: Cell[]) => Promise<string | null>;
    order: (ids: string[]) => void;
    selected: (ids: string[]) => void;
  };
  let { channels, columns, search, chosenId, scales, choose, preview, write, order, selected }: Props =
    $props();
  const shell = useShell();
  const { feed } = shell;

  const shownColumns = $derived(columns.flatMap((key) => COLUMNS.find((c) => c.key === key) ?? []));
  const keysShown = $derived(shownColumns.map((c) => c.key));

  const items = $derived(gridItems(channels, search));
  const rows = $derived(items.flatMap((item) => ('channel' in item ? [item.channel] : [])));

  const ROW = 30;
  let box: HTMLElement;
  let grid: HTMLElement;
  const rowsInView = createVirtualizer<HTMLElement, HTMLTableRowElement>({
    count: 0,
    getScrollElement: () => box,
    estimateSize: () => ROW,
    // The head stays in view above the rows.
    scrollMargin: ROW,
    scrollPaddingStart: ROW,
    scrollPaddingEnd: ROW,
    overscan: 8,
    initialRect: { width: 900, height: 600 },
  });
  $effect(() => get(rowsInView).setOptions({ count: items.length }));
  const drawn = $derived($rowsInView.getVirtualItems().filter(({ index }) => index < items.length));
  const visible = $derived(drawn.map(({ index }) => items[index]));
  const above = $derived(drawn.length ? drawn[0].start - ROW : 0);
  const below = $derived(drawn.length ? (items.length - 1 - drawn[drawn.length - 1].index) * ROW : 0);

  // The block of cells: from where it was begun to where it goes now.
  let anchor = $state({ row: 0, column: 0 });
  let focus = $state({ row: 0, column: 0 });
  let dragging = $state(false);
  const block = $derived(blockOf(anchor, focus, rows.length));
  $effect(() => selected(rows.slice(block.top, block.bottom + 1).map((c) => c.id)));

  // What the page chooses (a link, the palette) is where the block is.
  $effect(() => {
    const at = rows.findIndex((c) => c.id === chosenId);
    if (at < 0 || rows[focus.row]?.id === chosenId) return;
    anchor = { row: at, column: anchor.column };
    focus = { row: at, column: focus.column };
    void tick().then(() => reveal(at));
  });

  let editing = $state<{ row: number; column: number; text: string } | null>(null);
  let fault = $state('');
  /** Cells that are being written, as they were typed. */
  let pending = $state.raw(new Map<string, string>());
  function goTo(row: number, column: number, extend: boolean) {
    const r = Math.max(0, Math.min(rows.length - 1, row));
    focus = { row: r, column: Math.max(0, Math.min(shownColumns.length - 1, column)) };
    if (!extend) anchor = { ...focus };
    fault = '';
    if (rows[r]) choose(rows[r].id);
    reveal(r);
  }
  /** Scrolls a row into view, clear of the head. */
  function reveal(row: number) {
    get(rowsInView).scrollToIndex(items.findIndex((item) => 'channel' in item && item.index === row));
  }
  async function begin(text?: string) {
    const channel = rows[focus.row];
    const { key } = shownColumns[focus.column];
    if (!channel || !isEditable(channel, key)) return;
    fault = '';
    editing = { ...focus, text: text ?? cellText(channel, key) };
    await tick();
    const input = box.querySelector<HTMLInputElement>('input.cell');
    input?.focus();
    if (text === undefined) input?.select();
  }
  async function finish(all: boolean) {
    if (!editing) return;
    const { text, row, column } = editing;
    const at = all ? block : { top: row, bottom: row, left: column, right: column };
    const cells = writtenInto(rows, keysShown, at, text);
    // What is typed stands at once; should the server refuse it, it comes back to be mended.
    const kept = editing;
    editing = null;
    pending = new Map(cells.map((c) => [`${c.id} ${c.key}`, c.text]));
    grid.focus({ preventScroll: true });
    if (!all) goTo(row + 1, column, false);
    const why = await write(cells);
    pending = new Map();
    if (!why) return;
    if (editing) return shell.say({ what: why, where: rows[row].name });
    goTo(row, column, all);
    fault = why;
    editing = kept;
    await tick();
    box.querySelector<HTMLInputElement>('input.cell')?.focus();
  }
  const blockRows = () =>
    rows
      .slice(block.top, block.bottom + 1)
      .map((c) => shownColumns.slice(block.left, block.right + 1).map((column) => shownText(c, column.key)));
  const shownText = (c: Channel, key: string) => gridText(c, key, feed.value(c.id));

  const move = (ids: string[], before: string | null) => order(moved(channels, ids, before));
  function moveBlock(step: 1 | -1) {
    const ids = rows.slice(block.top, block.bottom + 1).map((c) => c.id);
    const to = step < 0 ? block.top - 1 : block.bottom + 2;
    if (to < 0 || (step > 0 && block.bottom >= rows.length - 1)) return;
    move(ids, rows[to]?.id ?? null);
    anchor = { ...anchor, row: anchor.row + step };
    focus = { ...focus, row: focus.row + step };
  }

  function keys(event: KeyboardEvent) {
    if (editing) {
      if (event.key === 'Escape') {
        editing = null;
        fault = '';
        grid.focus({ preventScroll: true });
      } else if (event.key === 'Enter') {
        event.preventDefault();
        void finish(event.ctrlKey || event.metaKey);
      }
      event.stopPropagation();
      return;
    }
    const jump = event.ctrlKey || event.metaKey;
    const step = stepOf(event.key, jump, rows.length, shownColumns.length);
    if (event.altKey && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
      event.preventDefault();
      return moveBlock(event.key === 'ArrowDown' ? 1 : -1);
    }
    if (step) {
      event.preventDefault();
      return goTo(focus.row + step[0], focus.column + step[1], event.shiftKey);
    }
    if (jump && event.key === 'd') {
      event.preventDefault();
      return preview({ cells: filledDown(rows, keysShown, block), rows: [] });
    }
    if (jump && event.key === 'a') {
      event.preventDefault();
      anchor = { row: 0, column: 0 };
      focus = { row: rows.length - 1, column: shownColumns.length - 1 };
      return;
    }
    if (jump || event.altKey) return;
    if (event.key === 'Enter' || event.key === 'F2') {
      event.preventDefault();
      void begin();
    } else if (event.key.length === 1 && event.key !== '?' && event.key !== ' ') {
      event.preventDefault();
      void begin(event.key);
    }
  }
  function down(event: PointerEvent, row: number, column: number) {
    if (event.button !== 0 || (event.target as HTMLElement).closest('input, .handle')) return;
    goTo(row, column, event.shiftKey);
    dragging = true;
    grid.focus({ preventScroll: true });
  }
  let carried = $state<string[]>([]);
  let over = $state<string | null>(null);
</script>

<svelte:window onpointerup={() => (dragging = false)} />

<div class="box" bind:this={box}>
  <table
    class="plain"
    style:min-width="{shownColumns.reduce((sum, c) => sum + c.width, 0)}px"
    bind:this={grid}
    tabindex="0"
    role="grid"
    aria-label="Channels"
    aria-rowcount={rows.length}
    onkeydown={keys}
    oncopy={(e) => {
      if (editing) return;
      e.preventDefault();
      e.clipboardData?.setData('text/plain', blockText(blockRows()));
    }}
    onpaste={(e) => {
      if (editing) return;
      e.preventDefault();
      preview(pastedInto(rows, keysShown, block, e.clipboardData?.getData('text/plain') ?? ''));
    }}
  >
    <colgroup
      >{#each shownColumns as column (column.key)}<col style:width="{column.width}px" />{/each}</colgroup
    >
    <thead>
      <tr
        >{#each shownColumns as column (column.key)}<th
            class:num={column.numeric || column.key === 'now'}
            title={column.label}>{column.label}</th
          >{/each}</tr
      >
    </thead>
    <tbody>
      {#if above > 0}<tr class="space" style:height="{above}px"></tr>{/if}
      {#each visible as item ('channel' in item ? item.channel.id : `group ${item.group}`)}
        {#if 'group' in item}
          <tr class="group"><td colspan={shownColumns.length}>{item.group}</td></tr>
        {:else}
          {@const c = item.channel}
          <tr
            aria-rowindex={item.index + 1}
            data-id={c.id}
            data-name={c.name}
            class:here={c.id === chosenId}
            class:over={over === c.id}
            aria-selected={c.id === chosenId}
            ondragover={(e) => {
              if (!carried.length) return;
              e.preventDefault();
              over = c.id;
            }}
            ondrop={(e) => {
              e.preventDefault();
              if (!carried.includes(c.id)) move(carried, c.id);
              carried = [];
              over = null;
            }}
          >
            {#each shownColumns as column, k (column.key)}
              {@const key = column.key}
              <td
                class={key}
                class:num={key === 'now'}
                class:number={column.numeric}
                class:block={isIn(block, item.index, k) &&
                  (block.top !== block.bottom || block.left !== block.right)}
                class:cursor={focus.row === item.index && focus.column === k}
                class:closed={!isEditable(c, key)}
                data-key={key}
                onpointerdown={(e) => down(e, item.index, k)}
                onpointerenter={() => dragging && (focus = { row: item.index, column: k })}
                ondblclick={() => void begin()}
              >
                {#if editing?.row === item.index && editing.column === k}
                  <CellInput
                    bind:text={editing.text}
                    label="{column.label} of {c.name}"
                    options={gridOptions(c, key, scales)}
                    {fault}
                    leave={() => !fault && (editing = null)}
                  />
                {:else if pending.has(`${c.id} ${key}`)}<span class="muted"
                    >{pending.get(`${c.id} ${key}`)}</span
                  >
                {:else if key === 'name'}
                  <span
                    class="handle"
                    draggable="true"
                    role="presentation"
                    title="Drag to another place"
                    style:color={traceColour(c.colour, shell.night)}
                    ondragstart={(e) => {
                      carried = isIn(block, item.index, block.left)
                        ? rows.slice(block.top, block.bottom + 1).map((r) => r.id)
                        : [c.id];
                      e.dataTransfer?.setData('text/plain', c.name);
                    }}
                    ondragend={() => ((carried = []), (over = null))}>▪</span
                  ><span title={c.name}>{c.name}</span>
                {:else}<CellView channel={c} column={key} />{/if}
              </td>
            {/each}
          </tr>
        {/if}
      {:else}
        <tr><td colspan={shownColumns.length} class="muted">No channel is called that.</td></tr>
      {/each}
      {#if below > 0}<tr class="space" style:height="{below}px"></tr>{/if}
    </tbody>
  </table>
</div>

<style>
  .box {
    overflow: auto;
    flex: 1;
    min-height: 0;
    outline: none;
  }
  table {
    outline: none;
    table-layout: fixed;
    width: 100%;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
    z-index: 2;
    height: 30px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  td {
    height: 30px;
    padding: 0 var(--space-2);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    position: relative;
    cursor: cell;
    user-select: none;
  }
  .group td {
    background: var(--stone);
    font-size: var(--type-small);
    font-weight: 650;
    color: var(--muted);
    cursor: default;
  }
  tr.here td {
    background: var(--tint);
  }
  tr.over td {
    border-top: 2px solid var(--plum);
  }
  td.block {
    background: color-mix(in srgb, var(--plum) 16%, var(--card)) !important;
  }
  table:focus td.cursor,
  table:focus-within td.cursor {
    outline: 2px solid var(--plum);
    outline-offset: -2px;
    border-radius: calc(var(--radius) / 3);
  }
  td.cursor:has(:global(.why)) {
    overflow: visible;
  }
  .name {
    font-weight: 600;
  }
  .handle {
    cursor: grab;
    margin-right: var(--space-1);
    font-size: var(--type-body);
  }
  .wire,
  .sensorSerial {
    font-family: var(--font-mono);
  }
  .wire,
  .sensorSerial,
  .share,
  .calibration {
    font-size: var(--type-small);
  }
  .number,
  .now {
    text-align: right;
    font-family: var(--font-mono);
    font-size: var(--type-body);
  }
</style>
