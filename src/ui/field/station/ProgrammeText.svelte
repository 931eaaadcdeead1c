<!-- The same programme as text: what is wrong stands beside its line; former versions are compared and taken up again. -->
<script lang="ts">
  import { diffLines } from 'diff';
  import type { Remark } from '$core/field/station/text';
  import type { VersionView } from '$contract/station';
  import { momentText } from './words';

  type Props = {
    text: string;
    remarks: Remark[];
    versions: VersionView[];
    runs: string;
    change: (text: string) => void;
  };
  let { text, remarks, versions, runs, change }: Props = $props();

  const lines = $derived(text.split('\n'));
  const at = (line: number) => remarks.filter((r) => r.line === line);
  let compared = $state<number | null>(null);
  const other = $derived(versions.find((v) => v.number === compared));
  const parts = $derived(other ? diffLines(other.text, text) : []);
  let box = $state<HTMLTextAreaElement>();
  function go(line: number) {
    const from = lines.slice(0, line - 1).join('\n').length + (line > 1 ? 1 : 0);
    box?.focus();
    box?.setSelectionRange(from, from + (lines[line - 1]?.length ?? 0));
  }
</script>

<section class="card pad" data-testid="text">
  <h2>As text</h2>
  <p class="muted small">
    One line for the station, one for each value, one for each table. The sentences above are the same
    programme.
  </p>
  <div class="editor">
    <div class="numbers mono" aria-hidden="true">
      {#each { length: lines.length }, k}<span
          class:bad={at(k + 1).some((r) => r.bad)}
          class:warning={at(k + 1).length > 0 && !at(k + 1).some((r) => r.bad)}>{k + 1}</span
        >{/each}
    </div>
    <textarea
      class="mono"
      aria-label="The programme as text"
      spellcheck="false"
      wrap="off"
      rows={Math.max(6, lines.length)}
      value={text}
      bind:this={box}
      oninput={(e) => change(e.currentTarget.value)}></textarea>
  </div>
  {#each remarks.filter((r) => r.line !== null) as r, k (k)}
    <button class="remark" class:bad={r.bad} class:warning={!r.bad} onclick={() => go(r.line!)}
      >line {r.line}: {r.says}</button
    >
  {/each}
  <h2 class="second">Versions</h2>
  <ul>
    {#each versions as v (v.number)}
      <li>
        <strong>{v.number}</strong>
        <span class="muted"
          >{momentText(v.atMs)}, by {v.by}{v.text === runs
            ? ', runs now'
            : v.ranMs === null
              ? ', never ran'
              : ''}</span
        >
        <button class="dotted" onclick={() => (compared = compared === v.number ? null : v.number)}
          >{compared === v.number ? 'do not compare' : 'compare'}</button
        >
        {#if v.text !== text}<button class="dotted" onclick={() => change(v.text)}>take it up again</button
          >{/if}
      </li>
    {:else}<li class="muted">None yet: each that is sent is kept.</li>{/each}
  </ul>
  {#if other}
    <pre class="mono" data-testid="difference">{#each parts as p, k (k)}<span
          class:gone={p.removed}
          class:came={p.added}
          >{p.value
            .replace(/\n$/, '')
            .split('\n')
            .map((l) => `${p.removed ? '−' : p.added ? '+' : ' '} ${l}`)
            .join('\n')}
</span>{/each}</pre>
  {/if}
</section>

<style>
  .pad {
    padding: var(--space-3) var(--space-4);
  }
  .small {
    font-size: var(--type-small);
    margin: 0 0 var(--space-2);
  }
  .editor {
    display: grid;
    grid-template-columns: 2rem minmax(0, 1fr);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    overflow: hidden;
    line-height: 1.5;
  }
  .numbers {
    font-size: var(--type-body);
    display: grid;
    align-content: start;
    text-align: right;
    padding: var(--space-2) var(--space-1);
    background: var(--stone);
    color: var(--muted);
  }
  textarea {
    border: 0;
    background: var(--card);
    color: inherit;
    padding: var(--space-2);
    line-height: inherit;
    font-size: var(--type-body);
    resize: none;
    white-space: pre;
    overflow-x: auto;
  }
  .remark {
    display: block;
    text-align: left;
    padding: var(--space-half) 0;
  }
  .bad {
    color: var(--red);
  }
  .warning {
    color: var(--ochre);
  }
  .second {
    margin-top: var(--space-3);
  }
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  li {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
  }
  pre {
    margin: var(--space-2) 0 0;
    overflow-x: auto;
    line-height: 1.5;
  }
  .gone {
    color: var(--red);
  }
  .came {
    color: var(--moss);
  }
</style>
