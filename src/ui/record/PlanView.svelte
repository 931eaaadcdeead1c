<!-- A plan as its paragraphs, in the order in which things happen; conditions and facts stand where they belong. -->
<script lang="ts">
  import type { Condition } from '$core/condition/condition';
  import type { Names } from '$core/sentence/sentence';
  import { newFact, type Fact } from '$contract/fact';
  import { PLAN_PARTS, planSentence, type Plan } from '$contract/plan';
  import ConditionView from '../sentence/ConditionView.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import FactsDialog from './FactsDialog.svelte';

  type Props = {
    plan: Plan;
    names: Names;
    change: (key: string, value: unknown) => Promise<unknown>;
    table: boolean;
  };
  let { plan, names, change, table }: Props = $props();

  let factsOpen = $state(false);
  const facts = $derived(plan.facts);
  const setFacts = (next: Fact[]) => change('facts', next);
  const asked = $derived(facts.map((f) => f.name).join(', ') || 'nothing');
</script>

{#if table}
  <SentenceView sentence={planSentence} value={plan} {names} {change} table />
{:else}
  <div class="plan">
    {#each PLAN_PARTS as part (part.key)}
      <div class="part" class:flow={!part.condition}>
        <SentenceView sentence={part.sentence} value={plan} {names} {change} />
        {#if part.condition?.shown(plan)}
          {@const key = part.condition.key}
          <ConditionView
            condition={plan[key]}
            {names}
            label="{part.key} condition"
            change={(next: Condition) => change(key, next)}
          />
          {#if part.tail}<SentenceView sentence={part.tail} value={plan} {names} {change} />{/if}
        {/if}
      </div>
    {/each}
    <p class="sentence last">
      Ask for <button class="dotted" onclick={() => (factsOpen = true)} aria-label="Facts asked: {asked}"
        >{asked}</button
      > before the take.
    </p>
  </div>
{/if}
<FactsDialog
  bind:open={factsOpen}
  {facts}
  {names}
  change={setFacts}
  add={() => setFacts([...facts, newFact(`Fact ${facts.length + 1}`)])}
/>

<style>
  .part.flow,
  .part.flow :global(p),
  .last {
    display: inline;
  }
  .part {
    padding-bottom: var(--space-half);
  }
  .sentence {
    margin: 0;
    line-height: 1.95;
    font-size: var(--type-body);
  }
  .plan :global(.sentence) {
    line-height: 1.75;
    font-size: var(--type-body);
  }
</style>
