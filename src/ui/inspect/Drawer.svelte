<!-- The takes of the job: found by words and conditions, in an order, under groups. A click shows one, a box lays it over the others, Shift and
     Ctrl mark several. -->
<script lang="ts">
  import { get } from 'svelte/store';
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { dayText } from '$core/readings';
  import { TAKE_GROUPS, TAKE_ORDERS, type TakeLine } from '$contract/take-list';
  import FaultNote from '../kit/FaultNote.svelte';
  import FilterSentence from './FilterSentence.svelte';
  import type { TakeList } from './take-list.svelte';
  import TakeRow from './TakeRow.svelte';

  type Props = {
    list: TakeList;
    /** Takes that are marked, and the one that stands out. */
    marked: ReadonlySet<string>;
    front: string;
    colourOf: (id: string) => number | null;
    show: (id: string) => void;
    mark: (ids: string[]) => void;
    onbin: () => void;
  };
  let { list, marked, front, colourOf, show, mark, onbin }: Props = $props();

  const ROW = 64;
  const HEAD = 26;
  let box: HTMLElement;
  const rowsInView = createVirtualizer<HTMLElement, HTMLElement>({
    count: 0,
    getScrollElement: () => box,
    estimateSize: (i) => ('group' in (list.items[i] ?? { index: 0 }) ? HEAD : ROW),
    overscan: 6,
    initialRect: { width: 220, height: 600 },
  });
  $effect(() => {
    const { length } = list.items;
    void list.group;
    const v = get(rowsInView);
    v.setOptions({ count: length });
    v.measure();
  });
  const drawn = $derived($rowsInView.getVirtualItems().filter(({ index }) => index < list.items.length));
  const height = $derived(list.items.reduce((sum, item) => sum + ('group' in item ? HEAD : ROW), 0));
  $effect(() => {
    void list.stripOf;
    list.see(
      drawn.flatMap(({ index }) => {
        const item = list.items[index];
        return 'index' in item ? [item.index] : [];
      }),
    );
  });

  let typing: ReturnType<typeof setTimeout> | undefined;
  function words(text: string) {
    clearTimeout(typing);
    typing = setTimeout(
      () => void list.search({ filter: { ...list.filter, words: text.slice(0, 200) } }),
      15,
    );
  }

  /** Where a stretch of takes begins that is marked with Shift. */
  let from = 0;
  function click(event: MouseEvent, index: number, line: TakeLine, byBox: boolean) {
    if (event.shiftKey) {
      const [a, b] = [from, index].sort((p, q) => p - q);
      return mark([...new Set([...marked, ...list.found.ids.slice(a, b + 1)])]);
    }
    from = index;
    if (byBox || event.ctrlKey || event.metaKey)
      return mark(marked.has(line.id) ? [...marked].filter((id) => id !== line.id) : [...marked, line.id]);
    show(line.id);
  }
  const orders = $derived([...TAKE_ORDERS, ...Object.keys(list.offered.facts).map((f) => `fact:${f}`)]);
  const groups = $derived([...TAKE_GROUPS, ...Object.keys(list.offered.facts).map((f) => `fact:${f}`)]);
  const said = (key: string) => (key.startsWith('fact:') ? key.slice(5) : key);
  const headOf = (name: string) =>
    name === '' ? `without ${said(list.group)}` : list.group === 'day' ? dayText(name) : name;

  function keys(event: KeyboardEvent) {
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    const all = [...box.querySelectorAll<HTMLElement>('[data-take] .show')];
    const at = all.indexOf(document.activeElement as HTMLElement);
    if (at < 0) return;
    event.preventDefault();
    event.stopPropagation();
    all[at + (event.key === 'ArrowDown' ? 1 : -1)]?.focus();
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<section class="card drawer" aria-label="Takes" onkeydown={keys}>
  <input
    class="find"
    type="search"
    placeholder="Find a take or fact"
    aria-label="Find a take or fact"
    value={list.filter.words}
    oninput={(e) => words(e.currentTarget.value)}
  />
  <FilterSentence {list} />
  <p class="sorted">
    <select
      aria-label="Order"
      value={list.order}
      onchange={(e) => void list.search({ order: e.currentTarget.value })}
    >
      {#each orders as order (order)}<option value={order}
          >{order === 'newest' || order === 'oldest' ? `${order} first` : `by ${said(order)}`}</option
        >{/each}
    </select>
    <select
      aria-label="Group"
      value={list.group}
      onchange={(e) => void list.search({ group: e.currentTarget.value })}
    >
      {#each groups as group (group)}<option value={group}
          >{group === 'nothing' ? 'in one list' : `by ${said(group)}`}</option
        >{/each}
    </select>
  </p>
  {#if list.fault}<FaultNote fault={list.fault} />{/if}
  <div
    class="rows"
    bind:this={box}
    role="group"
    aria-label="{list.found.ids.length} takes"
    data-count={list.found.ids.length}
  >
    <div class="tall" style:height="{height}px">
      {#each drawn as { index: at, start } (at)}
        {@const item = list.items[at]}
        <div class="place" style:transform="translateY({start}px)" role="presentation">
          {#if 'group' in item}
            <h3>{headOf(item.group)} <span class="muted">{item.count}</span></h3>
          {:else}
            {@const line = list.lines.get(item.index)}
            {#if line}
              <TakeRow
                {line}
                strip={list.strips.get(line.id) ?? null}
                marked={marked.has(line.id)}
                front={line.id === front}
                colour={colourOf(line.id)}
                click={(e, byBox) => click(e, item.index, line, byBox)}
              />
            {:else}<div class="coming" aria-hidden="true"></div>{/if}
          {/if}
        </div>
      {/each}
    </div>
    {#if list.ready && list.found.ids.length === 0 && !list.fault}
      <p class="muted none">
        {list.found.all === 0 ? 'No take is recorded yet.' : `None of ${list.found.all} takes is like that.`}
      </p>
    {/if}
  </div>
  <p class="foot">
    <span class="muted"
      >{list.found.ids.length === list.found.all
        ? `${list.found.all}`
        : `${list.found.ids.length} of ${list.found.all}`}</span
    >
    <button class="dotted" disabled={list.found.ids.length === 0} onclick={() => mark(list.found.ids)}
      >mark all</button
    >
    <button class="dotted" onclick={onbin}>bin</button>
  </p>
</section>

<style>
  .drawer {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
  }
  .find {
    margin: var(--space-2) var(--space-2) 0;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-1) var(--space-2);
    font-size: var(--type-body);
  }
  .sorted {
    display: flex;
    gap: var(--space-1);
    margin: 0 var(--space-2) var(--space-1);
  }
  .sorted select {
    font-size: var(--type-small);
    border: 0;
    background-color: transparent;
    color: var(--muted);
    padding: var(--space-half) var(--space-5) var(--space-half) 0;
    min-width: 0;
    flex: 1;
    background-position: right 0 center;
    text-overflow: ellipsis;
  }
  .rows {
    flex: 1;
    min-height: 0;
    overflow: auto;
    border-top: 1px solid var(--hair);
  }
  .tall {
    position: relative;
  }
  .place {
    position: absolute;
    inset-inline: 0;
    top: 0;
  }
  h3 {
    font-size: var(--type-small);
    font-weight: 650;
    line-height: 26px;
    padding: 0 var(--space-2);
    background: var(--stone);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .coming {
    height: 63px;
    border-bottom: 1px solid var(--hair);
  }
  .none {
    padding: var(--space-3);
    margin: 0;
  }
  .foot {
    display: flex;
    gap: var(--space-3);
    align-items: center;
    margin: 0;
    padding: var(--space-1) var(--space-2);
    border-top: 1px solid var(--hair);
    font-size: var(--type-small);
  }
  .foot span {
    margin-right: auto;
  }
  .foot button:disabled {
    opacity: 0.5;
  }
</style>
