<!-- How takes are written as spreadsheets: each way a sentence that can be changed where it stands. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { commonOf } from '$contract/channel';
  import type { Overview } from '$contract/overview';
  import {
    NEW_SPREADSHEET,
    spreadsheetSentence,
    unitsWanted,
    watchedSentence,
    type Spreadsheet,
    type SpreadsheetView,
    type Watched,
  } from '$contract/spreadsheet';
  import { call, faultText } from '../api';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    overview: Overview;
    spreadsheets: SpreadsheetView[];
    watched: Watched;
    /** The take that they are tried with. */
    take: string | null;
  };
  let { overview, spreadsheets, watched, take }: Props = $props();
  const shell = useShell();
  const names = $derived({
    channel: (id: string) => {
      const found = overview.channels.find((c) => c.id === id);
      return found && { name: found.name, unit: commonOf(found).unit };
    },
  });
  const tried = $derived(overview.takes.find((t) => t.id === take));
  let leaving = $state<string | null>(null);

  async function doing(work: () => Promise<unknown>) {
    try {
      await work();
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const add = (from?: SpreadsheetView) =>
    doing(() => call('POST /api/spreadsheets', { body: from ? { name: `${from.name}, copy`.slice(0, 80), body: from.body } : { body: NEW_SPREADSHEET } })); // prettier-ignore
  const rename = (of: SpreadsheetView, name: string) =>
    doing(() => call('PUT /api/spreadsheets/[id]', { params: { id: of.id }, body: { name, body: of.body } }));
  async function change(of: SpreadsheetView, key: string, value: unknown): Promise<void> {
    const body = { ...of.body, [key]: value };
    const parsed = spreadsheetSentence.schema.safeParse(body);
    if (!parsed.success) throw new Error(parsed.error.issues[0].message);
    const units = unitsWanted(parsed.data.units);
    if ('wrong' in units) throw new Error(units.wrong);
    await call('PUT /api/spreadsheets/[id]', {
      params: { id: of.id },
      body: { name: of.name, body: body as Spreadsheet },
    });
    await shell.refresh();
  }
  async function remove(of: SpreadsheetView) {
    leaving = null;
    await doing(() => call('DELETE /api/spreadsheets/[id]', { params: { id: of.id } }));
  }
</script>

<div class="page">
  <div class="page-head">
    <h1>Spreadsheets</h1>
    <span class="muted"
      >Marked takes, a series or a take that has just ended become a file by one of these, without a question.</span
    >
  </div>
  <p class="acts">
    <button class="dotted" onclick={() => void add()}>Another spreadsheet</button>
    <a class="dotted" href={resolve(`/report?take=${take ?? ''}`)}>Reports</a>
  </p>
  <div class="list">
    {#each spreadsheets as one, k (one.id)}
      <section class="card pad" data-testid="spreadsheet">
        <header>
          <input
            class="title"
            aria-label="Name of the spreadsheet"
            value={one.name}
            maxlength="80"
            onchange={(e) => void rename(one, e.currentTarget.value)}
          />
          {#if k === 0}<span class="muted">taken where none is chosen</span>{/if}
        </header>
        <SentenceView
          sentence={spreadsheetSentence}
          value={one.body}
          {names}
          change={(key, value) => change(one, key, value)}
        />
        <p class="acts">
          <button
            class="dotted"
            disabled={!tried}
            onclick={() =>
              void shell.files.make({ what: 'spreadsheet', spreadsheet: one.id, takes: [take!] }, one.name)}
            >Write it{tried ? ` for ${tried.name}` : ''}</button
          >
          <button class="dotted" onclick={() => void add(one)}>copy it</button>
          {#if leaving === one.id}
            <button class="dotted danger" onclick={() => void remove(one)}>yes, take it away</button>
            <button class="dotted" onclick={() => (leaving = null)}>keep it</button>
          {:else}
            <button class="dotted" onclick={() => (leaving = one.id)}>take it away</button>
          {/if}
        </p>
      </section>
    {:else}
      <section class="card pad">
        <p class="muted">
          None is kept yet. Until then takes are written in the usual way: a summary, results, statistics,
          channels and samples on a step of 20 ms.
        </p>
      </section>
    {/each}
    <section class="card pad" data-testid="watched">
      <h2>Files of other programs</h2>
      <SentenceView
        sentence={watchedSentence}
        value={watched}
        names={NO_NAMES}
        options={{ spreadsheet: spreadsheets.map((s) => s.name) }}
        change={async (key, value) => {
          await call('PUT /api/watched', { body: { ...watched, [key]: value } as Watched });
          await shell.refresh();
        }}
      />
      <p class="muted">
        The folder lies beside the job’s data. A file that has been whole for two seconds is taken; what
        cannot be read goes to “refused” with the reason, what was taken lies in “taken” beside its
        spreadsheet.
      </p>
    </section>
  </div>
</div>

<style>
  .list {
    display: grid;
    gap: var(--space-3);
    max-width: 62rem;
  }
  .pad {
    padding: var(--space-4);
  }
  header {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
    margin-bottom: var(--space-2);
  }
  .title {
    font: inherit;
    font-weight: 650;
    color: inherit;
    background: none;
    border: 0;
    border-bottom: 1px dotted var(--line);
    padding: 0;
    min-width: 12rem;
    field-sizing: content;
  }
  .acts {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-3);
    margin: var(--space-2) 0 0;
  }
  .page > .acts {
    margin-bottom: var(--space-3);
  }
</style>
