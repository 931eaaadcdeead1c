<!-- The facts asked before a take, as one short form. -->
<script lang="ts">
  import { takeName, type Plan } from '$contract/plan';
  import { Button, Input, Label, Modal } from 'flowbite-svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import type { FaultText } from '../api';

  type Props = {
    open: boolean;
    plan: Plan;
    last: Record<string, string>;
    number: number;
    fault: FaultText | null;
    arm: (facts: Record<string, string>) => void;
  };
  let { open = $bindable(), plan, last, number, fault, arm }: Props = $props();

  let facts = $state<Record<string, string>>({});
  $effect(() => {
    if (open) facts = Object.fromEntries(plan.facts.map((f) => [f, last[f] ?? '']));
  });
</script>

<Modal bind:open title="Before the take" size="sm" class="arm-form">
  <form
    onsubmit={(e) => {
      e.preventDefault();
      arm(facts);
    }}
  >
    {#each plan.facts as fact, i (fact)}
      <Label for="fact-{i}" class="mb-1">{fact}</Label>
      <Input id="fact-{i}" name={fact} bind:value={facts[fact]} class="mb-3" autocomplete="off" size="md" />
    {/each}
    <p class="muted">
      It will be named <strong class="mono">{takeName(plan.naming, facts, number)}</strong>. The facts are
      kept in the take.
    </p>
    {#if fault}<FaultNote {fault} />{/if}
    <div class="row">
      <Button type="submit">Arm</Button>
      <Button color="alternative" onclick={() => (open = false)}>Not yet</Button>
    </div>
  </form>
</Modal>

<style>
  .row {
    display: flex;
    gap: 10px;
    margin-top: 14px;
  }
</style>
