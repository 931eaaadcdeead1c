<!-- A take as a file: which channels, in which open format, with its options as a sentence. -->
<script lang="ts">
  import { FORMAT_KINDS } from '$core/formats/registry';
  import { NO_NAMES } from '$core/sentence/sentence';
  import type { TakeSignal } from '$contract/take';
  import { Button, Label, Select } from 'flowbite-svelte';
  import CheckList from '../kit/CheckList.svelte';
  import Dialog from '../kit/Dialog.svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    open: boolean;
    /** Takes that are saved, each as a file. */
    takes: string[];
    /** Channels of the one that stands out: those of the others are found by their names. */
    signals: TakeSignal[];
  };
  let { open = $bindable(), takes, signals }: Props = $props();

  const shell = useShell();
  const names = $derived(new Map(shell.overview.takes.map((t) => [t.id, t.name])));
  const writers = FORMAT_KINDS.filter((f) => f.writing);
  let kind = $state(writers[0].kind);
  let options = $state.raw<Record<string, unknown>>({});
  let chosen = $state<number[]>([]);
  let fault = $state<FaultText | null>(null);
  let busy = $state(false);

  const format = $derived(writers.find((f) => f.kind === kind)!);
  const value = $derived({ ...format.writing!.defaults, ...options });
  $effect(() => {
    if (open) chosen = signals.map((s) => s.id);
  });
  $effect(() => {
    void kind;
    options = {};
    fault = null;
  });
  function change(key: string, next: unknown): Promise<void> {
    const parsed = format.writing!.sentence.schema.safeParse({ ...value, [key]: next });
    if (!parsed.success) return Promise.reject(new Error(parsed.error.issues[0].message));
    options = { ...options, [key]: next };
    return Promise.resolve();
  }

  async function save() {
    if (chosen.length === 0)
      return void (fault = { what: 'No channel is chosen.', next: 'Choose at least one.' });
    busy = true;
    const all = chosen.length === signals.length;
    const chosenNames = new Set(signals.filter((s) => chosen.includes(s.id)).map((s) => s.name));
    try {
      for (const id of takes) {
        const take = takes.length > 1 && !all ? await call('GET /api/takes/[id]', { params: { id } }) : null;
        // Of the other takes the channels of the same names.
        const own = take ? take.signals.filter((s) => chosenNames.has(s.name)).map((s) => s.id) : chosen;
        if (own.length === 0) continue;
        const name = names.get(id) ?? format.title;
        void shell.files.make(
          {
            what: 'take',
            take: id,
            format: kind,
            signals: all && takes.length > 1 ? [] : own,
            options: value,
          },
          name,
        );
      }
      fault = null;
      open = false;
    } catch (error) {
      fault = faultText(error);
    } finally {
      busy = false;
    }
  }
</script>

<Dialog
  bind:open
  title={takes.length === 1 ? 'Save as a file' : `Save ${takes.length} takes as files`}
  size="sm"
>
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void save();
    }}
  >
    <div>
      <Label for="export-format" class="mb-1">Format</Label>
      <Select
        id="export-format"
        size="sm"
        bind:value={kind}
        items={writers.map((f) => ({ value: f.kind, name: f.title }))}
      />
    </div>
    <SentenceView sentence={format.writing!.sentence} {value} names={NO_NAMES} {change} />
    <div class="channels">
      <CheckList
        items={signals.map(({ id, name, unit }) => ({ id, name, about: unit }))}
        {chosen}
        change={(ids) => (chosen = ids)}
      />
    </div>
    <p>
      <button
        type="button"
        class="dotted"
        onclick={() => (chosen = chosen.length === signals.length ? [] : signals.map((s) => s.id))}
        >{chosen.length === signals.length ? 'none of them' : 'all of them'}</button
      >
    </p>
    <p class="muted small">{format.cannotCarry}</p>
    {#if fault}<FaultNote {fault} />{/if}
    <Button type="submit" size="sm" disabled={busy}
      >{takes.length > 1 ? 'Save the files' : 'Save the file'}</Button
    >
  </form>
</Dialog>

<style>
  form {
    display: grid;
    gap: var(--space-3);
    justify-items: start;
  }
  form > :global(div) {
    width: 100%;
  }
  .channels {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: var(--space-half) var(--space-3);
    max-height: 240px;
    overflow: auto;
  }
  p {
    margin: 0;
  }
  .small {
    font-size: var(--type-small);
  }
</style>
