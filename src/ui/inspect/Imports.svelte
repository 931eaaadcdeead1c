<!-- Brings files in as takes: chosen or dropped onto the page, several at once, sent piece by piece, with progress. -->
<script lang="ts" module>
  /** Files that are being brought in; they go on while other pages are looked at. */
  export interface Coming {
    key: number;
    file: File;
    id: string | null;
    /** 0 to 1: sending is the first half, reading the second. */
    share: number;
    says: string;
    state: 'waiting' | 'coming' | 'done' | 'failed';
    takeId: string | null;
    fault: FaultText | null;
  }
</script>

<script lang="ts">
  import { FORMAT_KINDS } from '$core/formats/registry';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { Button } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import Dialog from '../kit/Dialog.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import ImportPreview from './ImportPreview.svelte';
  import { remember, remembered } from './preview';

  type Props = {
    open: boolean;
    /** Files that were dropped onto the page. */
    dropped: File[];
    done: (takeIds: string[]) => void;
  };
  let { open = $bindable(), dropped = $bindable(), done }: Props = $props();

  const readers = FORMAT_KINDS.filter((f) => f.reading);
  let chosen = $state.raw<File[]>([]);
  let options = $state.raw<Record<string, unknown>>({});
  let coming = $state<Coming[]>([]);
  let keys = 0;
  let busy = $state(false);

  $effect(() => {
    if (dropped.length === 0) return;
    chosen = dropped;
    dropped = [];
    open = true;
  });
  $effect(() => {
    if (!open && !busy) [chosen, options, coming] = [[], {}, []];
  });
  const ending = (name: string) => name.toLowerCase().split('.').at(-1) ?? '';
  const formatOf = (file: File) => readers.find((f) => f.extensions.includes(ending(file.name))) ?? null;
  /** The options of the first format that has any; they count for all files of it. */
  const first = $derived(chosen.find(formatOf) ?? null);
  const format = $derived(first && formatOf(first));
  // As the last file of its kind was read.
  let recalled = $state(false);
  $effect(() => {
    if (!format) return;
    const last = remembered(format.kind);
    [options, recalled] = [last, Object.keys(last).length > 0];
  });
  const value = $derived({ ...format?.reading!.defaults, ...options });
  function change(key: string, next: unknown): Promise<void> {
    const parsed = format!.reading!.sentence.schema.safeParse({ ...value, [key]: next });
    if (!parsed.success) return Promise.reject(new Error(parsed.error.issues[0].message));
    [options, recalled] = [{ ...options, [key]: next }, false];
    return Promise.resolve();
  }

  const PIECE = 8 << 20;
  const stopped = new Set<number>();
  async function bring(one: Coming) {
    const { file } = one;
    try {
      const own = format && formatOf(file) === format;
      const made = await call('POST /api/imports', {
        body: { name: file.name, size: file.size, ...(own && { format: format.kind, options }) },
      });
      one.id = made.id;
      one.state = 'coming';
      for (let at = 0; at < file.size; at += PIECE) {
        if (stopped.has(one.key)) return;
        const piece = new File([file.slice(at, at + PIECE)], file.name);
        await call('PUT /api/imports/[id]', { params: { id: made.id }, query: { at }, file: piece });
        one.share = Math.min(1, (at + PIECE) / file.size) / 2;
        one.says = `sent ${Math.round((Math.min(file.size, at + PIECE) / file.size) * 100)} %`;
      }
      for (;;) {
        if (stopped.has(one.key)) return;
        const now = await call('GET /api/imports/[id]', { params: { id: made.id } });
        one.share = 0.5 + now.share / 2;
        one.says = `reading it, ${Math.round(now.share * 100)} %`;
        if (now.state === 'done')
          return void Object.assign(one, {
            state: 'done',
            says: 'is a take now',
            takeId: now.takeId,
            share: 1,
          });
        if (now.state === 'failed') return void Object.assign(one, { state: 'failed', fault: now.fault });
        await new Promise((resolve) => setTimeout(resolve, 120));
      }
    } catch (error) {
      Object.assign(one, { state: 'failed', fault: faultText(error) });
    }
  }
  async function bringAll() {
    busy = true;
    if (format) remember(format.kind, options);
    coming = chosen.map((file) => ({
      key: ++keys,
      file,
      id: null,
      share: 0,
      says: 'waits',
      state: 'waiting',
      takeId: null,
      fault: null,
    }));
    for (const one of coming) await bring(one);
    busy = false;
    const ids = coming.flatMap((c) => c.takeId ?? []);
    const well = coming.every((c) => c.state === 'done');
    if (ids.length) done(ids);
    if (well) open = false;
    else chosen = [];
  }
  async function stop(one: Coming) {
    stopped.add(one.key);
    if (one.id) await call('DELETE /api/imports/[id]', { params: { id: one.id } }).catch(() => undefined);
    Object.assign(one, {
      state: 'failed',
      fault: { what: `${one.file.name} was not brought in.`, next: 'Nothing of it stays.' },
    });
  }
  const megabytes = (bytes: number) =>
    bytes < 1e6
      ? `${Math.max(1, Math.round(bytes / 1000))} kB`
      : `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;
</script>

<Dialog bind:open title="Bring in recordings" size={first ? 'md' : 'sm'}>
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void bringAll();
    }}
  >
    <p class="muted">
      A take of another Farrier (.take) keeps its facts and its seal. A file of another program becomes a take
      of this job:
      {readers.map((f) => f.title.split(',')[0]).join(', ')}.
    </p>
    {#if coming.length === 0}
      {#if open}<input
          type="file"
          multiple
          aria-label="File"
          accept={['.take', ...readers.flatMap((f) => f.extensions.map((e) => `.${e}`))].join()}
          onchange={(e) => (chosen = [...(e.currentTarget.files ?? [])])}
        />{/if}
      {#if chosen.length}
        <ul>
          {#each chosen as file, k (k)}<li>
              {file.name} <span class="muted">{megabytes(file.size)}</span>
            </li>{/each}
        </ul>
      {/if}
      {#if format}
        {#key format.kind}<SentenceView
            sentence={format.reading!.sentence}
            {value}
            names={NO_NAMES}
            {change}
          />{/key}
        {#if recalled}
          <p class="muted" data-testid="recalled">
            As the last file of this kind was read.
            <button type="button" class="dotted" onclick={() => ((options = {}), (recalled = false))}
              >find it out anew</button
            >
          </p>
        {/if}
        {#if first}<ImportPreview file={first} {format} options={value} />{/if}
      {/if}
    {:else}
      <ul class="coming">
        {#each coming as one (one.key)}
          <li>
            <span class="name">{one.file.name}</span>
            {#if one.state === 'failed' && one.fault}<FaultNote fault={one.fault} />
            {:else}
              <progress max="1" value={one.share} aria-label={one.file.name}></progress>
              <span class="muted">{one.says}</span>
              {#if one.state === 'waiting' || one.state === 'coming'}<button
                  type="button"
                  class="dotted"
                  onclick={() => void stop(one)}>stop</button
                >{/if}
            {/if}
          </li>
        {/each}
      </ul>
    {/if}
    {#if coming.length && !busy}
      <Button size="sm" color="alternative" onclick={() => ((coming = []), (chosen = []))}
        >Choose other files</Button
      >
    {:else}
      <Button type="submit" size="sm" disabled={busy || chosen.length === 0}
        >{busy ? 'Bringing in…' : chosen.length > 1 ? `Bring ${chosen.length} in` : 'Bring it in'}</Button
      >
    {/if}
  </form>
</Dialog>

<style>
  form {
    display: grid;
    gap: var(--space-3);
    justify-items: start;
  }
  p {
    margin: 0;
  }
  ul {
    width: 100%;
    max-height: 260px;
    overflow: auto;
  }
  .coming li {
    display: grid;
    grid-template-columns: 1fr 90px auto auto;
    gap: var(--space-2);
    align-items: center;
    font-size: var(--type-small);
    padding: var(--space-1) 0;
  }
  .coming li :global(.fault) {
    grid-column: 1 / -1;
  }
  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  progress {
    width: 90px;
    accent-color: var(--plum-fill);
  }
  input::file-selector-button {
    background: var(--card);
    color: var(--ink);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    margin-inline: 0 var(--space-3);
  }
</style>
