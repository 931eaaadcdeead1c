<!-- The conditions of the list of takes, as a sentence whose values are the controls. -->
<script lang="ts">
  import { NO_NAMES } from '$core/sentence/sentence';
  import { CONDITION_KINDS, type Condition } from '$contract/take-list';
  import FloatBox from '../kit/FloatBox.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import type { Offered } from '$contract/api/inspect';
  import type { TakeFilter } from '$contract/take-list';

  /** Whatever holds a filter: the list of takes, a study of those that fit. */
  interface Filtered {
    readonly filter: TakeFilter;
    readonly offered: Offered;
    search(change: { filter: TakeFilter }): Promise<void>;
  }
  type Props = { list: Filtered };
  let { list }: Props = $props();

  let adding = $state<HTMLElement | null>(null);
  const kindOf = (kind: string) => CONDITION_KINDS.find((k) => k.kind === kind)!;
  const set = (conditions: Condition[]) => list.search({ filter: { ...list.filter, conditions } });

  function add(kind: string) {
    const { defaults } = kindOf(kind);
    const { offered } = list;
    const fact = Object.keys(offered.facts)[0] ?? '';
    const usual: Record<string, Record<string, unknown>> = {
      fact: { fact, value: offered.facts[fact]?.[0] ?? '' },
      channel: { channel: offered.channels[0]?.name ?? '' },
      tag: { tag: offered.tags[0] ?? '' },
      folder: { folder: offered.folders[0] ?? '' },
      plan: { plan: offered.plans[0] ?? '' },
    };
    adding = null;
    void set([...list.filter.conditions, { kind, settings: { ...defaults, ...usual[kind] } }]);
  }
  const options = ({ settings }: Condition) => ({
    facts: Object.keys(list.offered.facts),
    values: list.offered.facts[String(settings.fact)] ?? [],
    tags: list.offered.tags,
    folders: list.offered.folders,
    plans: list.offered.plans,
    channels: list.offered.channels.map((c) => c.name),
  });
  const change = (k: number) => (key: string, value: unknown) =>
    set(
      list.filter.conditions.map((c, i) =>
        i === k ? { ...c, settings: { ...c.settings, [key]: value } } : c,
      ),
    );
</script>

<div class="conditions">
  {#each list.filter.conditions as condition, k (k)}
    <span class="one">
      <SentenceView
        sentence={kindOf(condition.kind).sentence}
        value={condition.settings}
        names={NO_NAMES}
        options={options(condition)}
        change={change(k)}
      /><button
        class="muted"
        aria-label="Leave this condition out"
        onclick={() => void set(list.filter.conditions.filter((_, i) => i !== k))}>✕</button
      >
    </span>
  {/each}
  <button class="dotted" aria-haspopup="menu" onclick={(e) => (adding = adding ? null : e.currentTarget)}
    >{list.filter.conditions.length ? 'and …' : 'all takes, or those where …'}</button
  >
</div>
{#if adding}
  <FloatBox anchor={adding} label="A condition" role="menu" close={() => (adding = null)}>
    <div class="menu">
      {#each CONDITION_KINDS as kind (kind.kind)}
        <button role="menuitem" onclick={() => add(kind.kind)}>{kind.title}</button>
      {/each}
    </div>
  </FloatBox>
{/if}

<style>
  .conditions {
    padding: var(--space-1) var(--space-2) 0;
    font-size: var(--type-small);
    display: flex;
    flex-direction: column;
    align-items: start;
    max-height: 120px;
    overflow: auto;
    flex-shrink: 0;
  }
  .one {
    display: flex;
    gap: var(--space-1);
    align-items: baseline;
    width: 100%;
    justify-content: space-between;
  }
  .one :global(.sentence) {
    line-height: 1.6;
    font-size: var(--type-small);
  }
  .menu {
    display: flex;
    flex-direction: column;
    margin: 0 calc(-1 * var(--space-2));
  }
  .menu button {
    text-align: left;
    padding: var(--space-1) var(--space-2);
    border-radius: var(--radius);
  }
  .menu button:hover,
  .menu button:focus-visible {
    background: var(--tint);
  }
</style>
