<!-- A report: its pages left, the page as it will print in the middle, right the marked block as a sentence. -->
<script lang="ts">
  // Faces that a house may set its papers in.
  import '@fontsource-variable/archivo-narrow';
  import '@fontsource-variable/source-serif-4';
  import { onDestroy, untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { Button } from 'flowbite-svelte';
  import type { Overview } from '$contract/overview';
  import { GRID_MM, pageMm, type Block, type ReportView } from '$contract/report';
  import { blockKind, blockKinds } from '$contract/report-blocks';
  import type { StudyView } from '$contract/study';
  import type { TakeView } from '$contract/take';
  import { call, faultText } from '../api';
  import { provideChoices } from '../sentence/choices';
  import { useShell } from '../shell/shell.svelte';
  import BlockPanel from './BlockPanel.svelte';
  import { ReportDraft } from './draft.svelte';
  import PagePanel from './PagePanel.svelte';
  import PageView from './PageView.svelte';
  import { placeFor } from './placing';
  import { pageSvg } from './print';
  import Share from './Share.svelte';
  import Thumbnail from './Thumbnail.svelte';

  type Props = { overview: Overview; report: ReportView; take: TakeView | null; studies: StudyView[] };
  let { overview, report, take, studies }: Props = $props();
  const shell = useShell();

  const draft = untrack(
    () => new ReportDraft(report.id, report, take?.head.id ?? null, (fault) => shell.say(fault)),
  );
  $effect(() => draft.showFor(take?.head.id ?? null));
  onDestroy(() => draft.leave());
  provideChoices(
    () =>
    (take?.signals ?? []).flatMap((s) => (s.channelId ? [{ id: s.channelId, name: s.name, unit: s.unit, width: s.width }] : [])), // prettier-ignore
  );

  let pageId = $state(untrack(() => report.pages[0].id));
  let chosen = $state<string[]>([]);
  const page = $derived(draft.body.pages.find((p) => p.id === pageId) ?? draft.body.pages[0]);
  const block = $derived(chosen.length === 1 ? page.blocks.find((b) => b.id === chosen[0]) : undefined);
  const size = $derived(pageMm(draft.body.paper));
  const inner = $derived.by(() => {
    const m = draft.body.paper.marginMm;
    return { x: m, y: m, w: size[0] - 2 * m, h: size[1] - 2 * m };
  });
  const faults = $derived(
    draft.body.pages.flatMap((p) => p.blocks.filter((b) => draft.drawn.get(b.id)?.says)).length,
  );

  const newId = () => crypto.randomUUID();
  function put(kind: string, at?: { x: number; y: number }) {
    const found = blockKind(kind)!;
    const free = placeFor(found.size, page.blocks, inner);
    const corner = at && { x: round(at.x, inner.x), y: round(at.y, inner.y) };
    const place = corner
      ? {
          ...corner,
          w: Math.min(found.size[0], Math.max(20, inner.x + inner.w - corner.x)),
          h: found.size[1],
        }
      : free;
    const added: Block = { id: newId(), kind, ...place, settings: { ...found.defaults } };
    draft.page(page.id, (p) => ({ ...p, blocks: [...p.blocks, added] }));
    chosen = [added.id];
  }
  const round = (mm: number, from: number) => from + Math.round((mm - from) / GRID_MM) * GRID_MM;
  const remove = () =>
    draft.page(page.id, (p) => ({ ...p, blocks: p.blocks.filter((b) => !chosen.includes(b.id)) }));
  function copy() {
    const copies = page.blocks
      .filter((b) => chosen.includes(b.id))
      .map((b) => ({ ...b, id: newId(), x: b.x + 5, y: b.y + 5 }));
    draft.page(page.id, (p) => ({ ...p, blocks: [...p.blocks, ...copies] }));
    chosen = copies.map((b) => b.id);
  }
  const order = (to: 'front' | 'back') =>
    draft.page(page.id, (p) => {
      const own = p.blocks.filter((b) => chosen.includes(b.id));
      const others = p.blocks.filter((b) => !chosen.includes(b.id));
      return { ...p, blocks: to === 'front' ? [...others, ...own] : [...own, ...others] };
    });
  function addPage() {
    const added = { id: newId(), name: `Page ${draft.body.pages.length + 1}`, blocks: [] };
    draft.change({ ...draft.body, pages: [...draft.body.pages, added] });
    [pageId, chosen] = [added.id, []];
  }
  function removePage() {
    const at = draft.body.pages.indexOf(page);
    const pages = draft.body.pages.filter((p) => p !== page);
    draft.change({ ...draft.body, pages });
    [pageId, chosen] = [pages[Math.max(0, at - 1)].id, []];
  }
  function movePage(by: number) {
    const pages = [...draft.body.pages];
    const at = pages.indexOf(page);
    pages.splice(at, 1);
    pages.splice(at + by, 0, page);
    draft.change({ ...draft.body, pages });
  }

  let share = $state<Share | null>(null);
  const shown = $derived(take ? [take.head.id] : []);
  async function away() {
    await call('DELETE /api/reports/[id]', { params: { id: report.id } }).catch((error) =>
      shell.say(faultText(error)),
    );
    await goto(resolve('/report'), { invalidateAll: true });
  }

  function keys(event: KeyboardEvent) {
    const target = event.target as HTMLElement;
    if (target.closest('input, textarea, select, [contenteditable]')) return;
    if (event.key === 'p' && !event.ctrlKey && !event.metaKey && !event.altKey) return void share?.print();
    if (!(event.ctrlKey || event.metaKey)) return;
    const key = event.key.toLowerCase();
    if (key === 'z' && !event.shiftKey) draft.undo();
    else if (key === 'y' || (key === 'z' && event.shiftKey)) draft.redo();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<svelte:window onkeydowncapture={keys} />

<div class="page" data-saved={!draft.unsaved}>
  <div class="page-head">
    <input
      class="name"
      aria-label="Name of the report"
      value={draft.body.name}
      onchange={(e) => draft.change({ ...draft.body, name: e.currentTarget.value.trim() || draft.body.name })}
    />
    <span class="aside">
      {draft.body.pages.length === 1 ? '1 page' : `${draft.body.pages.length} pages`} · {draft.body.paper
        .size}
      {draft.body.paper.direction}{#if take}&ensp;· shown for {take.head.name}{/if}{#if faults}&ensp;·
        <span class="ochre"
          >{faults === 1 ? '1 block lacks something' : `${faults} blocks lack something`}</span
        >{/if}
    </span>
    <div class="actions">
      <button class="dotted" disabled={!draft.canUndo} onclick={() => draft.undo()}>undo</button>
      <button class="dotted" disabled={!draft.canRedo} onclick={() => draft.redo()}>redo</button>
      <Share
        bind:this={share}
        {report}
        name={draft.body.name}
        {shown}
        keep={() => draft.save()}
        drawing={() => ({ svg: pageSvg(page, size, draft), name: page.name || draft.body.name })}
      />
      <Button size="sm" onclick={() => void share?.print()}>Make the PDF <kbd>P</kbd></Button>
    </div>
  </div>

  <div class="editor">
    <nav class="card pages" aria-label="Pages">
      {#each draft.body.pages as p, k (p.id)}
        <button class="leaf" aria-current={p.id === page.id} onclick={() => ([pageId, chosen] = [p.id, []])}>
          <Thumbnail page={p} paper={draft.body.paper} drawn={draft.drawn} />
          <span>{k + 1} {p.name}</span>
        </button>
      {/each}
      <button class="dotted" onclick={addPage}>add a page</button>
      {#if draft.body.pages.length > 1}
        <p class="small">
          {#if draft.body.pages[0] !== page}<button class="dotted" onclick={() => movePage(-1)}>up</button
            >{/if}
          {#if draft.body.pages.at(-1) !== page}<button class="dotted" onclick={() => movePage(1)}
              >down</button
            >{/if}
          <button class="dotted" onclick={removePage}>remove</button>
        </p>
      {/if}
    </nav>

    <div class="desk">
      {#key page.id}
        <PageView {draft} {page} bind:chosen onput={put} onremove={remove} oncopy={copy} />
      {/key}
    </div>

    <aside>
      {#if block}
        <BlockPanel {draft} {page} {block} {take} {studies} onremove={remove} oncopy={copy} onorder={order} />
      {:else if chosen.length > 1}
        <section class="card pad">
          <h2>{chosen.length} blocks</h2>
          <p class="muted">
            Arrows move them, with Shift they change their size, with Alt by a tenth of a millimetre.
          </p>
          <p class="line">
            <button class="dotted" onclick={copy}>copy them</button>
            <button class="dotted" onclick={remove}>take them away</button>
          </p>
        </section>
      {/if}
      <section class="card pad" data-testid="put">
        <h2>Put on the page</h2>
        <ul class="kinds">
          {#each blockKinds as kind (kind.kind)}
            <li>
              <button
                data-kind={kind.kind}
                draggable="true"
                ondragstart={(e) => e.dataTransfer?.setData('application/x-farrier-block', kind.kind)}
                onclick={() => put(kind.kind)}
                ><strong>{kind.title}</strong><span class="muted">{kind.says}</span></button
              >
            </li>
          {/each}
        </ul>
      </section>
      <PagePanel {overview} {report} {draft} {page} {take} onaway={away} />
    </aside>
  </div>
</div>

<style>
  .name {
    font-size: var(--type-title);
    font-weight: 650;
    background: none;
    border: 0;
    border-bottom: 1px dotted var(--plum);
    color: inherit;
    padding: 0;
    field-sizing: content;
    min-width: 6rem;
    max-width: 24rem;
  }
  .ochre {
    color: var(--ochre);
  }
  .actions .dotted:disabled {
    opacity: 0.4;
  }
  .editor {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: 7.5rem minmax(0, 1fr) 20.5rem;
    gap: var(--space-3);
  }
  .pages {
    overflow: auto;
    padding: var(--space-2);
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
    align-items: center;
  }
  .leaf {
    width: 100%;
    text-align: center;
    font-size: var(--type-small);
    color: var(--muted);
  }
  .leaf > :global(svg) {
    outline: 1px solid var(--line);
    margin-bottom: var(--space-1);
  }
  .leaf[aria-current='true'] {
    color: var(--plum);
    font-weight: 650;
  }
  .leaf[aria-current='true'] > :global(svg) {
    outline: 2px solid var(--plum);
  }
  .desk {
    background: var(--stone);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    overflow: auto;
    container-type: size;
    padding: 0 var(--space-3);
  }
  aside {
    overflow: auto;
    display: flex;
    flex-direction: column;
    gap: var(--space-3);
  }
  .pad {
    padding: var(--space-3);
  }
  .kinds {
    list-style: none;
    margin: var(--space-1) 0 0;
    padding: 0;
  }
  .kinds li + li {
    border-top: 1px solid var(--hair);
  }
  .kinds button {
    display: grid;
    grid-template-columns: 7rem 1fr;
    gap: var(--space-2);
    width: 100%;
    text-align: left;
    padding: var(--space-1) 0;
    cursor: grab;
  }
  .line {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: var(--space-2);
    margin: var(--space-1) 0 var(--space-2);
  }
  .small {
    font-size: var(--type-small);
    display: flex;
    flex-wrap: wrap;
    justify-content: center;
    gap: 0 var(--space-2);
  }
</style>
