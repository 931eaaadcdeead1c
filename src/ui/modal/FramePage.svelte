<!-- A wireframe: seen in space, typed or pasted as tables, with the sensors that sit on it. Channels are dragged onto its points. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { Button } from 'flowbite-svelte';
  import type { FrameFinding } from '$core/wireframe/check';
  import type { Vec } from '$core/wireframe/wireframe';
  import { FrameBody, type NamedFrame } from '$contract/wireframe';
  import type { Overview } from '$contract/overview';
  import { call, faultText, send } from '../api';
  import FloatBox from '../kit/FloatBox.svelte';
  import Late from '../kit/Late.svelte';
  import { useShell } from '../shell/shell.svelte';
  import FrameCopies from './FrameCopies.svelte';
  import FramePoints from './FramePoints.svelte';
  import FrameParts from './FrameParts.svelte';
  import FramePaste from './FramePaste.svelte';
  import FrameSensors from './FrameSensors.svelte';

  type Channel = { id: string; name: string; unit: string; moves: boolean; drives?: boolean; from: string };
  type Props = {
    overview: Overview;
    opened: { frame: NamedFrame; findings: FrameFinding[] };
    channels: Channel[];
  };
  let { overview, opened, channels }: Props = $props();
  const shell = useShell();

  let own = $state.raw<Props['opened'] | null>(null);
  // What others change, and what is undone, comes with the page.
  $effect(() => {
    void opened;
    untrack(() => (own = null));
  });
  const { frame, findings } = $derived(own ?? opened);
  const TABS = ['Points', 'Lines', 'Surfaces', 'Parts', 'Sensors'] as const;
  let tab = $state<(typeof TABS)[number]>('Points');
  let names = $state(true);
  let marked = $state<string | null>(null);
  let pasting = $state<'Points' | 'Lines' | 'Surfaces' | null>(null);
  let pasted = $state('');
  let copying = $state<HTMLElement | null>(null);
  /** The first point of a line that is being drawn. */
  let drawing = $state(false);
  let view: { from(d: Vec): void; pointAt(x: number, y: number): string | null } | undefined = $state();
  const VIEWS: [string, Vec][] = [['askew', [-1, -1.35, 0.75]], ['along x', [-1, 0, 0]], ['along y', [0, -1, 0]], ['from above', [0, -0.001, 1]]]; // prettier-ignore
  const look = $derived({
    phase: 0,
    reach: 0,
    names,
    sensors: true,
    arrows: false,
    coloured: false,
    rest: true,
    marked: marked === null ? null : frame.points.findIndex((p) => p.name === marked),
  });

  /** Takes a change over at once, and keeps it; one that is refused is taken back and said. */
  async function edit(change: Partial<FrameBody>, says: string): Promise<boolean> {
    const before = { frame, findings };
    const { id, ...body } = { ...frame, ...change };
    own = { frame: { ...body, id }, findings };
    try {
      own = await call('PUT /api/wireframes/[id]', { params: { id }, body: { frame: body, says } });
      return true;
    } catch (error) {
      own = before;
      shell.say(faultText(error));
      return false;
    }
  }
  function clicked(point: string | null) {
    if (drawing && marked && point && point !== marked)
      void edit({ lines: [...frame.lines, [marked, point]] }, `a line from ${marked} to ${point}`);
    marked = point;
  }
  async function bringIn(input: HTMLInputElement) {
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    try {
      if (/\.(csv|txt|tsv)$/i.test(file.name)) {
        // Looked at before it is taken over.
        [pasting, pasted] = ['Points', await file.text()];
        return;
      }
      const response = await send('POST /api/wireframes/read', { file });
      const { points, lines } = FrameBody.parse(await response.json());
      const fresh = new Set(points.map((p) => p.name));
      await edit({ points: [...frame.points.filter((p) => !fresh.has(p.name)), ...points], lines: [...frame.lines, ...lines] }, `brought in from ${file.name}`); // prettier-ignore
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  async function remove() {
    try {
      await call('DELETE /api/wireframes/[id]', { params: { id: frame.id } });
      await goto(resolve('/study/modal'), { invalidateAll: true });
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const takeOffered = $derived(overview.takes.filter((t) => t.state !== 'recording'));
</script>

<div class="page">
  <div class="page-head">
    <h1>
      <label>
        <span class="hidden">Name of the wireframe</span>
        <input
          class="title"
          value={frame.name}
          maxlength="60"
          onchange={(e) => void edit({ name: e.currentTarget.value }, `called “${e.currentTarget.value}”`)}
        />
      </label>
    </h1>
    <span class="aside"
      >{frame.points.length} points, {frame.lines.length} lines, {frame.sensors.length} sensors</span
    >
    <div class="actions">
      <Button
        size="sm"
        color="alternative"
        disabled={frame.points.length === 0}
        onclick={(e: MouseEvent) => (copying = e.currentTarget as HTMLElement)}>Mirror or repeat</Button
      >
      <label class="file"
        >Bring in a file<input
          type="file"
          accept=".unv,.uff,.csv,.txt,.tsv"
          onchange={(e) => void bringIn(e.currentTarget)}
        /></label
      >
      <Button
        size="sm"
        color="alternative"
        href={resolve(`/api/wireframes/${frame.id}/file` as '/api/wireframes')}
        download>Save as universal file</Button
      >
      <Button size="sm" color="alternative" onclick={() => void remove()}>Remove</Button>
    </div>
  </div>
  {#if copying}
    <FloatBox anchor={copying} label="Mirror or repeat" close={() => (copying = null)}>
      <FrameCopies
        {frame}
        take={(next, says) => {
          copying = null;
          void edit(next, says);
        }}
      />
    </FloatBox>
  {/if}
  {#each findings as f (f.says)}<p class="finding" class:severe={f.severe}>
      ◆ {f.says} <span class="muted">{f.next}</span>
    </p>{/each}
  <div class="work">
    <section class="card picture" aria-label="The wireframe in space">
      {#if frame.points.length === 0}
        <p class="muted empty">
          No point yet: type them on the right, paste rows from a sheet, or bring in a file.
        </p>
      {:else}
        <Late part={() => import('./FrameView.svelte')}>
          {#snippet children(View)}
            <View
              bind:this={view}
              {frame}
              {look}
              night={shell.night}
              label="Wireframe {frame.name}: turned by dragging or arrows"
              {clicked}
            />
          {/snippet}
        </Late>
        <div class="row">
          {#each VIEWS as [word, d] (word)}<button class="dotted" onclick={() => view?.from(d)}>{word}</button
            >{/each}
          <label><input type="checkbox" bind:checked={names} />names</label>
          <label><input type="checkbox" bind:checked={drawing} />draw lines from point to point</label>
          <span class="muted">{marked ?? ''}</span>
        </div>
      {/if}
    </section>
    <section class="card tables" aria-label="Tables">
      <div class="tabs" role="group" aria-label="Tables">
        {#each TABS as name (name)}<button
            class:here={tab === name}
            aria-pressed={tab === name}
            onclick={() => (tab = name)}>{name}</button
          >{/each}
        {#if tab === 'Points' || tab === 'Lines' || tab === 'Surfaces'}<button
            class="dotted paste"
            onclick={() => {
              pasting = tab as 'Points';
            }}>paste rows</button
          >{/if}
      </div>
      {#if tab === 'Points'}
        <FramePoints {frame} {marked} mark={(name) => (marked = name)} edit={(c, s) => void edit(c, s)} />
      {:else if tab === 'Lines' || tab === 'Surfaces'}
        <ul class="list">
          {#each tab === 'Lines' ? frame.lines.slice(0, 800) : frame.surfaces.slice(0, 800) as names, k (k)}
            <li>
              {names.join(' – ')}
              <button
                class="dotted"
                aria-label="Take {names.join(' – ')} away"
                onclick={() =>
                  void (tab === 'Lines'
                    ? edit(
                        { lines: frame.lines.filter((_, i) => i !== k) },
                        `the line ${names.join('–')} taken away`,
                      )
                    : edit(
                        { surfaces: frame.surfaces.filter((_, i) => i !== k) },
                        `the surface ${names.join('–')} taken away`,
                      ))}>take away</button
              >
            </li>
          {:else}
            <li class="muted">
              {tab === 'Lines'
                ? 'None yet: tick “draw lines from point to point”, or paste names in rows.'
                : 'None yet: paste three or four names a row.'}
            </li>
          {/each}
        </ul>
      {:else if tab === 'Parts'}
        <FrameParts {frame} edit={(c, s) => void edit(c, s)} />
      {:else}
        <FrameSensors
          {frame}
          {channels}
          takes={takeOffered}
          pointAt={(x, y) => view?.pointAt(x, y) ?? null}
          mark={(name) => (marked = name)}
          edit={(c, s) => void edit(c, s)}
        />
      {/if}
    </section>
  </div>
</div>

<FramePaste {frame} bind:pasting bind:pasted {edit} />

<style>
  .work {
    display: grid;
    grid-template-columns: minmax(0, 1.1fr) minmax(0, 1fr);
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .card {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
    padding: var(--space-3);
  }
  .title {
    font: inherit;
    border: 0;
    padding: 0;
    background: none;
    color: inherit;
    field-sizing: content;
  }
  .hidden {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
  .finding {
    margin: 0;
    color: var(--ochre);
    font-size: var(--type-small);
  }
  .finding.severe {
    color: var(--red);
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-1) var(--space-3);
    align-items: center;
    font-size: var(--type-small);
  }
  .row label {
    display: flex;
    gap: var(--space-1);
    align-items: center;
  }
  .empty {
    margin: auto;
    max-width: 36ch;
    text-align: center;
  }
  .tabs {
    display: flex;
    gap: var(--space-4);
    font-size: var(--type-small);
    padding-bottom: var(--space-2);
  }
  .tabs button:not(.dotted) {
    color: var(--muted);
    border-bottom: 2px solid transparent;
  }
  .tabs .here:not(.dotted) {
    color: var(--ink);
    font-weight: 600;
    border-bottom-color: var(--plum);
  }
  .paste {
    margin-left: auto;
  }
  .list {
    overflow: auto;
    font-size: var(--type-small);
    flex: 1;
  }
  .list li {
    display: flex;
    justify-content: space-between;
    border-bottom: 1px solid var(--hair);
    padding: var(--space-half) var(--space-1);
  }
  .file {
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: var(--space-1) var(--space-3);
    cursor: pointer;
    position: relative;
  }
  .file:focus-within {
    outline: 2px solid var(--plum);
  }
  .file input {
    position: absolute;
    inset: 0;
    opacity: 0;
    width: 100%;
    cursor: pointer;
  }
</style>
