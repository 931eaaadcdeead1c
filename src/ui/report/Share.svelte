<!-- What else a report can be: slides, one page of the web, pictures, pages of a file that is there already; and over several takes. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { Button } from 'flowbite-svelte';
  import type { ReportKind } from '$contract/outgoing';
  import type { ReportView } from '$contract/report';
  import { call, faultText } from '../api';
  import FloatBox from '../kit/FloatBox.svelte';
  import { useShell } from '../shell/shell.svelte';
  import { saveDrawing, savePicture } from './print';

  type Props = {
    report: ReportView;
    name: string;
    /** The take that it is shown for. */
    shown: string[];
    /** Keeps what has been changed. */
    keep: () => Promise<void>;
    /** The page that is seen, as a drawing. */
    drawing: () => { svg: string; name: string };
  };
  let { report, name, shown, keep, drawing }: Props = $props();
  const shell = useShell();

  let open = $state<{ what: 'share' | 'takes'; anchor: HTMLElement } | null>(null);
  const toggle = (what: 'share' | 'takes', anchor: HTMLElement) => (open = open?.what === what ? null : { what, anchor }); // prettier-ignore
  const all = $derived(report.now.map((t) => t.id));
  /** What a file is of: the take that is shown, or all that it is bound to. */
  const over = $derived(all.length > 1 ? all : shown);

  const LABELS: Record<ReportKind, string> = { pdf: 'PDF', slides: 'slides', page: 'one page of the web' };
  async function make(as: ReportKind, takes: string[], each = false) {
    open = null;
    await keep();
    void shell.files.make({ what: 'report', report: report.id, takes, as, each }, `${name}, ${LABELS[as]}`);
  }
  export const print = () => make('pdf', shown);

  let how = $state<'append' | 'replace'>('append');
  async function into(file: File | undefined) {
    if (!file) return;
    open = null;
    const as = /\.pptx$/i.test(file.name) ? 'slides' : 'pdf';
    await keep();
    void shell.files.make(() => call('POST /api/reports/[id]/into', { params: { id: report.id }, query: { takes: over, as, how }, file }), file.name); // prettier-ignore
  }
  async function picture() {
    open = null;
    const { svg, name } = drawing();
    await savePicture(svg, name).catch((error) => shell.say(faultText(error)));
  }
</script>

{#if all.length > 1}
  <Button
    size="sm"
    color="alternative"
    onclick={(e: MouseEvent) => toggle('takes', e.currentTarget as HTMLElement)}
    >Over {all.length} takes</Button
  >
{/if}
<Button
  size="sm"
  color="alternative"
  onclick={(e: MouseEvent) => toggle('share', e.currentTarget as HTMLElement)}>Share as</Button
>
{#if open?.what === 'takes'}
  <FloatBox anchor={open.anchor} label="Over several takes" close={() => (open = null)}>
    <ul>
      <li>
        <button class="dotted" onclick={() => void make('pdf', all, true)}>{all.length} PDFs</button> in one archive
      </li>
      <li>
        <button class="dotted" onclick={() => void make('pdf', all)}>all in one PDF</button>, page numbers run
        on
      </li>
    </ul>
  </FloatBox>
{:else if open?.what === 'share'}
  <FloatBox anchor={open.anchor} label="Share as" close={() => (open = null)}>
    <ul>
      <li>
        <button class="dotted" onclick={() => void make('slides', over)}>slides</button> with charts and tables
        that can be edited
      </li>
      <li>
        <button class="dotted" onclick={() => void make('page', over)}>one page of the web</button> that stands
        alone; its charts can be read
      </li>
      <li>
        this page as <button
          class="dotted"
          onclick={() => {
            open = null;
            const { svg, name } = drawing();
            saveDrawing(svg, name);
          }}>a drawing</button
        >
        or <button class="dotted" onclick={() => void picture()}>a picture</button>
      </li>
      <li>
        <a
          class="dotted"
          href={resolve(`/api/reports/${report.id}/file`)}
          download
          onclick={() => (open = null)}>a file for another house</a
        >, with style and pictures
      </li>
      <li class="into">
        into a PDF or presentation that is there:
        <label><input type="radio" bind:group={how} value="append" /> at its end</label>
        <label
          ><input type="radio" bind:group={how} value="replace" /> in the place of this report’s former pages</label
        >
        <label class="dotted file"
          >choose the file <input
            type="file"
            accept=".pdf,.pptx"
            aria-label="The file that the pages go into"
            onchange={(e) => void into(e.currentTarget.files?.[0])}
          /></label
        >
      </li>
    </ul>
  </FloatBox>
{/if}

<style>
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
    max-width: 22rem;
  }
  li {
    padding: var(--space-1) 0;
  }
  li + li {
    border-top: 1px solid var(--hair);
  }
  .file {
    justify-self: start;
  }
  .file input {
    position: absolute;
    width: 1px;
    height: 1px;
    opacity: 0;
  }
  .into {
    display: grid;
    gap: var(--space-1);
  }
</style>
