<!-- A condition as its sentences: all or any of them have to hold. Values are edited in place, terms are added and taken out. -->
<script lang="ts">
  import { EMPTY_TERM, termSentence, type Condition } from '$core/condition/condition';
  import type { Names } from '$core/sentence/sentence';
  import SentenceView from './SentenceView.svelte';

  type Props = {
    condition: Condition;
    names: Names;
    change: (next: Condition) => Promise<unknown>;
    label: string;
    size?: 'normal' | 'large';
  };
  let { condition, names, change, label, size = 'normal' }: Props = $props();

  const { join, terms } = $derived(condition);
  const setTerm = (k: number) => (key: string, value: unknown) =>
    change({ ...condition, terms: terms.map((t, i) => (i === k ? { ...t, [key]: value } : t)) });
  const add = () =>
    change({ ...condition, terms: [...terms, { ...EMPTY_TERM, channel: terms.at(-1)?.channel ?? null }] });
  const remove = (k: number) => change({ ...condition, terms: terms.filter((_, i) => i !== k) });
</script>

<div class="condition" role="group" aria-label={label}>
  {#each terms as term, k (k)}
    <div class="term" data-term={k}>
      {#if k > 0}<button
          class="dotted join"
          aria-label="{join === 'all' ? 'and' : 'or'}: change it for all"
          onclick={() => void change({ ...condition, join: join === 'all' ? 'any' : 'all' })}
          >{join === 'all' ? 'and' : 'or'}</button
        >{/if}
      <SentenceView sentence={termSentence} value={term} {names} change={setTerm(k)} {size} />
      {#if terms.length > 1}<button
          class="quiet"
          aria-label="Take this condition out"
          title="Take it out"
          onclick={() => void remove(k)}>×</button
        >{/if}
      {#if k === terms.length - 1 && terms.length < 8}<button class="quiet" onclick={() => void add()}
          >{terms.length === 1 ? 'and …' : `${join === 'all' ? 'and' : 'or'} …`}</button
        >{/if}
    </div>
  {/each}
</div>

<style>
  .condition {
    display: flex;
    flex-direction: column;
    border-left: 2px solid var(--line);
    padding-left: var(--space-3);
    margin-left: var(--space-half);
  }
  .term {
    display: flex;
    align-items: baseline;
    gap: var(--space-2);
  }
  .join {
    font-weight: 600;
    flex-shrink: 0;
  }
  .quiet {
    color: var(--muted);
    font-size: var(--type-small);
    flex-shrink: 0;
    min-height: 24px;
    min-width: 24px;
  }
  .quiet:hover,
  .quiet:focus-visible {
    color: var(--plum);
  }
</style>
