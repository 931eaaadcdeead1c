<!-- Brings a file of another program in as a take. What it is is found by the file; how it is read can be said. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { FORMAT_KINDS } from '$core/formats/registry';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { Button } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import Dialog from '../kit/Dialog.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';

  type Props = { open: boolean };
  let { open = $bindable() }: Props = $props();

  const readers = FORMAT_KINDS.filter((f) => f.reading);
  let files = $state<FileList>();
  let options = $state.raw<Record<string, unknown>>({});
  let fault = $state<FaultText | null>(null);
  let busy = $state(false);

  const file = $derived(files?.[0] ?? null);
  const format = $derived(
    readers.find((f) => f.extensions.includes(file?.name.toLowerCase().split('.').at(-1) ?? '')) ?? null,
  );
  const value = $derived({ ...format?.reading!.defaults, ...options });
  // A file that was changed since it was chosen cannot be sent: it is chosen anew each time.
  $effect(() => {
    if (!open) files = undefined;
  });
  $effect(() => {
    void file;
    void open;
    options = {};
    fault = null;
  });
  function change(key: string, next: unknown): Promise<void> {
    const parsed = format!.reading!.sentence.schema.safeParse({ ...value, [key]: next });
    if (!parsed.success) return Promise.reject(new Error(parsed.error.issues[0].message));
    options = { ...options, [key]: next };
    return Promise.resolve();
  }
  async function bring() {
    if (!file) return;
    busy = true;
    try {
      const query = { format: format?.kind, options: JSON.stringify(options) };
      const { id } = await call('POST /api/takes', { query, file });
      open = false;
      await goto(resolve(`/inspect/${id}`), { invalidateAll: true });
    } catch (error) {
      fault = faultText(error);
    } finally {
      busy = false;
    }
  }
</script>

<Dialog bind:open title="Bring in a recording" size="sm">
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void bring();
    }}
  >
    <p class="muted">
      A file of another program becomes a take of this job:
      {readers.map((f) => f.title.split(',')[0]).join(', ')}.
    </p>
    {#if open}<input
        type="file"
        bind:files
        aria-label="File"
        accept={readers.flatMap((f) => f.extensions.map((e) => `.${e}`)).join()}
      />{/if}
    {#if format}
      <SentenceView sentence={format.reading!.sentence} {value} names={NO_NAMES} {change} />
    {/if}
    {#if fault}<FaultNote {fault} />{/if}
    <Button type="submit" size="sm" disabled={busy || !file}>{busy ? 'Reading it…' : 'Bring it in'}</Button>
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
  input::file-selector-button {
    background: var(--card);
    color: var(--ink);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    margin-inline: 0 var(--space-3);
  }
</style>
