<!-- Where a unit is and what is read from it: its sentence, its description file, its recording, its sources. -->
<script lang="ts">
  import type { KnownUnit } from '$contract/engine';
  import type { UnitState } from '$contract/unit';
  import type { Overview } from '$contract/overview';
  import { takesByFolder, takeTag } from '../take/labels';
  import { findUnitKind } from '$contract/units/kinds';
  import { NO_NAMES } from '$core/sentence/sentence';
  import type { BodyIn } from '$contract/api';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';
  import SourceTable from './SourceTable.svelte';

  type Props = { known: KnownUnit; unit: UnitState; takes: Overview['takes'] };
  let { known, unit, takes }: Props = $props();
  const shell = useShell();
  const kind = $derived(findUnitKind(known.kind)!);
  const params = $derived({ serial: known.serial });
  let fault = $state<FaultText | null>(null);
  let ports = $state<string[]>([]);

  const edit = async (body: BodyIn<'PATCH /api/units/[serial]'>) => {
    await call('PATCH /api/units/[serial]', { params, body });
    await shell.refresh();
  };
  async function attempt(work: () => Promise<unknown>) {
    try {
      await work();
      fault = null;
      await shell.refresh();
    } catch (error) {
      fault = faultText(error);
    }
  }
  $effect(() => {
    if (!('port' in kind.defaults)) return;
    call('GET /api/ports').then(
      (found) => (ports = found.map((p) => p.path)),
      () => undefined,
    );
  });
  const replays = $derived(kind.plays !== undefined && 'source' in kind.defaults);
  const playing = $derived.by(() => {
    const source = String(known.config.settings.source ?? '');
    const take = takes.find((t) => source === `take:${t.id}`);
    return take ? take.name : source.startsWith('file:') ? 'a file' : null;
  });
</script>

{#if kind.settings && (!replays || kind.beside)}
  <SentenceView
    sentence={kind.beside ?? kind.settings}
    value={known.config.settings}
    names={NO_NAMES}
    change={(key, value) => edit({ settings: { [key]: value } })}
    options={{ ports }}
  />
{/if}
{#if replays}
  <p class="row">
    <label
      >Plays <select
        value={String(known.config.settings.source ?? '')}
        onchange={(e) =>
          void attempt(() =>
            call('PATCH /api/units/[serial]', {
              params,
              body: { settings: { source: e.currentTarget.value } },
            }),
          )}
      >
        <option value="" disabled>a recording</option>
        {#each takesByFolder(takes) as { takes: of } (of[0].id)}
          {#each of as take (take.id)}<option value="take:{take.id}">{take.name} ({takeTag(take)})</option
            >{/each}
        {/each}
        {#if playing === 'a file'}<option value={String(known.config.settings.source)}>a file</option>{/if}
      </select></label
    >
    <label class="dotted"
      >or a file<input
        type="file"
        accept={kind.plays!.endings.map((e) => `.${e}`).join(',')}
        class="hidden"
        onchange={(e) => {
          const [file] = e.currentTarget.files ?? [];
          if (file) void attempt(() => call('POST /api/units/[serial]/file', { params, file }));
        }}
      /></label
    >
    <span
      >at its end <button
        class="dotted"
        onclick={() =>
          void attempt(() =>
            call('PATCH /api/units/[serial]', {
              params,
              body: {
                settings: {
                  again:
                    known.config.settings.again === 'nothing more' ? 'from the start again' : 'nothing more',
                },
              },
            }),
          )}>{String(known.config.settings.again)}</button
      ></span
    >
  </p>
{/if}
{#if kind.database}
  <p class="row">
    <span
      >Signals by {#if known.config.database}<strong>{known.config.database.name}</strong>{:else}no
        {kind.database.what} yet{/if}.</span
    >
    <label class="dotted"
      >{known.config.database ? 'Take another' : `Import a ${kind.database.what}`} ({kind.database
        .ending})<input
        type="file"
        accept={kind.database.ending}
        class="hidden"
        aria-label={kind.database.what}
        onchange={async (e) => {
          const input = e.currentTarget;
          const [file] = input.files ?? [];
          if (file)
            await attempt(async () =>
              call('PATCH /api/units/[serial]', {
                params,
                body: { database: { name: file.name, text: await file.text() } },
              }),
            );
          input.value = '';
        }}
      /></label
    >
    <label class="dotted"
      >Play a recorded log<input
        type="file"
        accept=".log,.txt"
        class="hidden"
        onchange={(e) => {
          const [file] = e.currentTarget.files ?? [];
          if (file) void attempt(() => call('POST /api/units/[serial]/file', { params, file }));
        }}
      /></label
    >
  </p>
{/if}
{#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
{#if kind.sources}
  <SourceTable {kind} rows={known.config.sources} {unit} change={(sources) => edit({ sources })} />
{/if}

<style>
  .row {
    display: flex;
    gap: var(--space-1) var(--space-4);
    flex-wrap: wrap;
    align-items: baseline;
    margin: var(--space-2) 0 0;
  }
  .hidden {
    position: absolute;
    width: 1px;
    height: 1px;
    opacity: 0;
  }
  label.dotted {
    cursor: pointer;
  }
  label.dotted:focus-within {
    outline: 2px solid var(--plum);
    outline-offset: 2px;
  }
  select {
    font: inherit;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-6) var(--space-half) var(--space-2);
  }
</style>
