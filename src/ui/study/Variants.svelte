<!-- One study tried in several ways, side by side: what differs in the sentences is marked, and what it makes of the findings is told. -->
<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { readingText } from '$core/readings';
  import { sentenceParts, type Names } from '$core/sentence/sentence';
  import type { StudyKind, StudyResult } from '$core/studies/study';
  import { differingFields, findingRows } from '$core/studies/variants';
  import type { StudyView } from '$contract/study';
  import { faultText } from '../api';
  import FigureView from '../plot/FigureView.svelte';
  import { useShell } from '../shell/shell.svelte';
  import { fetchResult } from './result';

  type Props = { variants: StudyView[]; kind: StudyKind; names: Names; here: string };
  let { variants, kind, names, here }: Props = $props();
  const shell = useShell();

  const differing = $derived(differingFields(variants.map((v) => v.settings)));
  const rows = $derived(findingRows(variants.map((v) => v.findings)));
  let results = $state.raw(new Map<string, StudyResult>());
  $effect(() => {
    for (const { id, resultId } of variants) {
      if (!resultId || results.has(resultId)) continue;
      fetchResult(id, resultId)
        .then((result) => (results = new Map(results).set(resultId, result)))
        .catch((error) => shell.say(faultText(error)));
    }
  });
  const running = $derived(variants.some((v) => v.state === 'running'));
  $effect(() => {
    if (!running) return;
    const timer = setInterval(() => void invalidate('farrier:page'), 400);
    return () => clearInterval(timer);
  });
  const withUnit = (value: number, unit: string) => `${readingText(value)}${unit === '1' ? '' : ` ${unit}`}`;
</script>

<div class="variants" style:--n={variants.length} data-testid="variants">
  {#each variants as v, k (v.id)}
    {@const result = v.resultId ? results.get(v.resultId) : undefined}
    <section class="card one" class:here={v.id === here}>
      <p class="says">
        <a class="dotted" href={resolve(`/study/${v.id}`)}>{k + 1}</a>
        {#each sentenceParts(kind.sentence, v.settings, names) as part, i (i)}{#if 'field' in part && differing.has(part.field.key)}<mark
              >{part.text}</mark
            >{:else if 'field' in part}<span>{part.text}</span>{:else}{part.text}{/if}{/each}
      </p>
      {#if result}
        {#each result.figures.slice(0, variants.length > 2 ? 1 : 2) as figure (figure.title)}
          <div class="figure"><FigureView {figure} night={shell.night} /></div>
        {/each}
      {:else}
        <p class="muted">
          {v.state === 'running'
            ? `Computing, ${Math.round(v.progress * 100)} %`
            : (v.fault?.what ?? v.state)}
        </p>
      {/if}
    </section>
  {/each}
</div>
{#if rows.length}
  <section class="card findings">
    <table class="plain">
      <thead
        ><tr
          ><th>Finding</th>{#each variants as v, k (v.id)}<th class="num">{k + 1}</th>{#if k}<th class="num"
                >against 1</th
              >{/if}{/each}</tr
        ></thead
      >
      <tbody>
        {#each rows as row (row.label)}
          <tr>
            <td>{row.label}</td>
            {#each row.cells as cell, k (k)}
              <td class="num">{cell ? withUnit(cell.value, cell.unit) : '–'}</td>
              {#if k}<td class="num muted"
                  >{cell?.difference === undefined
                    ? '–'
                    : `${cell.difference > 0 ? '+' : ''}${withUnit(cell.difference, cell.unit)}${cell.share === undefined ? '' : `, ${cell.share > 0 ? '+' : ''}${readingText(100 * cell.share, { digits: 2 })} %`}`}</td
                >{/if}
            {/each}
          </tr>
        {/each}
      </tbody>
    </table>
  </section>
{/if}

<style>
  .variants {
    display: grid;
    grid-template-columns: repeat(min(var(--n), 3), minmax(0, 1fr));
    gap: var(--space-2);
    min-height: 0;
  }
  .one {
    display: grid;
    grid-template-rows: auto 1fr;
    gap: var(--space-2);
    padding: var(--space-3);
    min-width: 0;
  }
  .one.here {
    border-color: var(--plum);
  }
  .says {
    margin: 0;
    font-size: var(--type-small);
  }
  .says span {
    white-space: nowrap;
  }
  mark {
    background: var(--tint);
    color: var(--plum);
    font-weight: 600;
    border-radius: calc(var(--radius) / 3);
  }
  .figure {
    display: grid;
    height: 240px;
    min-width: 0;
  }
  .findings {
    padding: var(--space-3);
    overflow: auto;
    max-height: 260px;
  }
  table {
    width: 100%;
  }
</style>
