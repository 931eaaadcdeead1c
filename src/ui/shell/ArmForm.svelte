<!-- The facts asked before a take, as one short form. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { takeName, type Plan } from '$contract/plan';
  import type { Proof } from '$contract/proof';
  import { Button, Input, Label, Modal } from 'flowbite-svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import { call, type FaultText } from '../api';

  type Props = {
    open: boolean;
    plan: Plan;
    last: Record<string, string>;
    number: number;
    fault: FaultText | null;
    arm: (facts: Record<string, string>) => void;
  };
  let { open = $bindable(), plan, last, number, fault, arm }: Props = $props();

  let due = $state.raw<(Proof & { name: string })[]>([]);
  let facts = $state<Record<string, string>>({});
  $effect(() => {
    if (open) void look();
    if (open) facts = Object.fromEntries(plan.facts.map((f) => [f, last[f] ?? '']));
  });

  /** What is not proven is said, but must not keep the form from opening. */
  async function look() {
    due = await call<typeof due>('GET', '/api/calibrate/due').catch(() => []);
  }
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
    {#if due.length}
      <div class="due" role="alert">
        <strong>▲ {due.length} of the plan’s channels {due.length === 1 ? 'is' : 'are'} not proven</strong>
        <ul>
          {#each due.slice(0, 4) as d (d.channelId)}<li>
              <a class="dotted" href={resolve(`/calibrate/${d.channelId}`)} onclick={() => (open = false)}
                >{d.name}</a
              >:
              {d.verdict}. <span class="muted">{d.why} {d.next}</span>
            </li>{/each}
        </ul>
        {#if due.length > 4}<a class="dotted" href={resolve('/calibrate')} onclick={() => (open = false)}
            >and {due.length - 4} more</a
          >{/if}
        <p class="muted">The take can be armed all the same; it keeps this list.</p>
      </div>
    {/if}
    {#if fault}<FaultNote {fault} />{/if}
    <div class="row">
      <Button type="submit">Arm</Button>
      <Button color="alternative" onclick={() => (open = false)}>Not yet</Button>
    </div>
  </form>
</Modal>

<style>
  .due {
    border: 1px solid var(--ochre-fill);
    border-radius: var(--radius);
    padding: 9px 12px;
    margin-top: 10px;
  }
  .due strong {
    color: var(--ochre);
  }
  .due ul {
    margin: 5px 0;
    padding-left: 16px;
    list-style: disc;
  }
  .due p {
    margin: 5px 0 0;
  }
  .row {
    display: flex;
    gap: 10px;
    margin-top: 14px;
  }
</style>
