<!-- All reports, and what a new one can begin with. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import type { Overview } from '$contract/overview';
  import type { HouseStyle, ReportView } from '$contract/report';
  import { call, faultText } from '../api';
  import { useShell } from '../shell/shell.svelte';
  import StyleCard from './StyleCard.svelte';
  import TemplateSketch from './TemplateSketch.svelte';

  type Props = {
    overview: Overview;
    reports: ReportView[];
    /** Those that were taken away. */
    gone: { id: string; name: string }[];
    spreadsheets: { name: string }[];
    style: HouseStyle;
    templates: { name: string; title: string; says: string }[];
    /** The take that a new one is to be shown for. */
    take: string | null;
  };
  let { overview, reports, gone, spreadsheets, style, templates, take }: Props = $props();
  const shell = useShell();
  const name = $derived(overview.takes.find((t) => t.id === take)?.name);
  const shownFor = $derived(`?take=${take ?? ''}` as const);

  async function make(what: { template?: string; from?: string }) {
    try {
      const made = await call('POST /api/reports', { body: what });
      await goto(resolve(`/report/${made.id}${shownFor}`));
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  async function back(id: string) {
    await call('POST /api/reports/[id]/restore', { params: { id } }).catch((error) =>
      shell.say(faultText(error)),
    );
    await shell.refresh();
  }
  let withStyle = $state(false);
  async function bring(input: HTMLInputElement) {
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    try {
      const made = await call('POST /api/reports/file', { file, query: { style: withStyle ? 'yes' : 'no' } });
      await goto(resolve(`/report/${made.id}${shownFor}`));
    } catch (error) {
      shell.say(faultText(error));
    }
  }
</script>

<div class="page">
  <div class="page-head">
    <h1>Report</h1>
    <span class="muted"
      >{name ? `of ${name}` : reports.length === 1 ? '1 report' : `${reports.length} reports`}</span
    >
  </div>

  <div class="columns">
    <section class="card pad" data-testid="reports">
      <h2>Reports of this job</h2>
      {#if reports.length === 0}
        <p class="muted">
          None yet. Begin with one of the pages at the right: it can be changed in every part.
        </p>
      {:else}
        <ul>
          {#each reports as report (report.id)}
            <li>
              <a class="title" href={resolve(`/report/${report.id}${shownFor}`)}>{report.name}</a>
              <span class="muted">
                {report.pages.length === 1 ? '1 page' : `${report.pages.length} pages`} · {report.paper.size}
                {report.paper.direction} · of {report.about}
              </span>
              <button class="dotted" onclick={() => void make({ from: report.id })}>copy it</button>
            </li>
          {/each}
        </ul>
      {/if}
      {#if gone.length}
        <details>
          <summary class="dotted"
            >{gone.length === 1 ? '1 was taken away' : `${gone.length} were taken away`}</summary
          >
          <ul>
            {#each gone as { id, name } (id)}
              <li>{name} <button class="dotted" onclick={() => void back(id)}>bring it back</button></li>
            {/each}
          </ul>
        </details>
      {/if}
      <p>
        <label class="dotted file"
          >Bring one in from a file<input
            type="file"
            accept=".json"
            aria-label="A report that came as a file"
            onchange={(e) => void bring(e.currentTarget)}
          /></label
        >
        <label><input type="checkbox" bind:checked={withStyle} /> with the style of its house</label>
      </p>
      <h2 class="second">The take as it is</h2>
      <p>
        Facts, curves, studies and calibrations of one take, written by itself.
        <a class="dotted" href={resolve(`/report/take${shownFor}`)}>Report of a take</a>
      </p>
      <StyleCard {style} />
      <h2 class="second">Spreadsheets</h2>
      <p>
        {spreadsheets.length
          ? `${spreadsheets.map((s) => s.name).join(', ')}.`
          : 'Summary, results, statistics, channels and samples of takes, in one action.'}
        <a class="dotted" href={resolve(`/report/spreadsheets${shownFor}`)}>How they are written</a>
      </p>
    </section>
    <section class="card pad">
      <h2>Begin a new one</h2>
      <ul class="gallery">
        {#each templates as template (template.name)}
          <li>
            <button onclick={() => void make({ template: template.name })}>
              <TemplateSketch name={template.name} />
              <span><strong>{template.title}</strong><span class="muted">{template.says}</span></span>
            </button>
          </li>
        {/each}
      </ul>
    </section>
  </div>
</div>

<style>
  .file input {
    position: absolute;
    width: 1px;
    height: 1px;
    opacity: 0;
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1.25fr);
    gap: var(--space-3);
    align-items: start;
  }
  .pad {
    padding: var(--space-4);
  }
  ul {
    list-style: none;
    margin: var(--space-2) 0 0;
    padding: 0;
  }
  section:first-child li {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-1) var(--space-3);
    align-items: baseline;
    padding: var(--space-2) 0;
    border-top: 1px solid var(--hair);
  }
  .title {
    font-weight: 650;
    color: var(--plum);
  }
  .second {
    margin-top: var(--space-5);
  }
  .gallery {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(16rem, 1fr));
    gap: var(--space-3);
  }
  .gallery button {
    display: grid;
    grid-template-columns: 5.2rem 1fr;
    gap: var(--space-3);
    width: 100%;
    text-align: left;
    align-items: start;
  }
  .gallery button:hover strong {
    color: var(--plum);
  }
  .gallery strong,
  .gallery .muted {
    display: block;
  }
</style>
