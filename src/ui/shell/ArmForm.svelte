<!-- Before a take: what is wrong or doubtful, each with its way out, and the facts that are asked, as one short form. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { takeName, type Plan } from '$contract/plan';
  import { objections, type PreflightCheck } from '$contract/preflight';
  import type { Fact } from '$contract/fact';
  import { Button, Input, Label } from 'flowbite-svelte';
  import Dialog from '../kit/Dialog.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import { call, faultText, send, type FaultText } from '../api';

  type Props = {
    open: boolean;
    name: string;
    plan: Plan;
    serials: string[];
    last: Record<string, string>;
    number: number;
    fault: FaultText | null;
    arm: (facts: Record<string, string>, reason: string) => void;
  };
  let { open = $bindable(), name, plan, serials, last, number, fault, arm }: Props = $props();

  let checks = $state.raw<PreflightCheck[] | null>(null);
  let lookFault = $state<FaultText | null>(null);
  let facts = $state<Record<string, string>>({});
  let reason = $state('');
  let all = $state(false);
  /** For which take the form was filled in; closed with Esc it keeps what was typed, for the same one. */
  let filledFor = '';
  $effect(() => {
    if (!open) return;
    checks = null;
    all = false;
    void look();
    const take = `${name} ${number} ${plan.facts.map((f) => f.name).join()}`;
    if (take === filledFor) return;
    filledFor = take;
    reason = '';
    facts = Object.fromEntries(
      plan.facts.map((f) => [f.name, f.offer === 'asked afresh' ? '' : (last[f.name] ?? '')]),
    );
  });

  async function look() {
    try {
      checks = await call('GET /api/record/preflight');
      lookFault = null;
    } catch (error) {
      checks = [];
      lookFault = faultText(error);
    }
  }
  async function take({ way }: PreflightCheck) {
    if (way?.href) {
      open = false;
      return void goto(resolve(way.href as '/record'));
    }
    if (!way?.act) return;
    try {
      await send(way.act.key, way.act);
      // Outputs take a moment to be where they were sent.
      setTimeout(() => void look(), 400);
    } catch (error) {
      lookFault = faultText(error);
    }
  }
  const against = $derived(objections(checks ?? []));
  const shown = $derived(all ? (checks ?? []) : (checks ?? []).slice(0, 8));
  const SIGN = { wrong: '■', doubtful: '▲', 'good to know': '●' };
  const asked = $derived(plan.facts.filter((f) => f.kind !== 'channel'));
  const typed = (f: Fact) => (f.kind === 'number' ? 'decimal' : 'text');
</script>

<Dialog bind:open title="Before the take · {name}" size="md" class="arm-form">
  <form
    onsubmit={(e) => {
      e.preventDefault();
      arm(facts, reason);
    }}
  >
    {#if asked.length}
      <div class="facts">
        {#each asked as fact, i (fact.name)}
          <div>
            <Label for="fact-{i}" class="mb-1"
              >{fact.name}{fact.factUnit ? `, ${fact.factUnit}` : ''}{#if fact.required === 'may be left out'}
                <span class="muted">may be left out</span>{/if}</Label
            >
            {#if fact.kind === 'choice' || fact.kind === 'yes/no'}
              <select id="fact-{i}" bind:value={facts[fact.name]}>
                <option value=""></option>
                {#each fact.kind === 'choice' ? fact.options : ['yes', 'no'] as option (option)}<option
                    value={option}>{option}</option
                  >{/each}
              </select>
            {:else}
              <Input
                id="fact-{i}"
                name={fact.name}
                bind:value={facts[fact.name]}
                inputmode={typed(fact)}
                list={fact.kind === 'serial' ? 'known-serials' : undefined}
                autocomplete="off"
                size="md"
              />
            {/if}
          </div>
        {/each}
      </div>
      <datalist id="known-serials"
        >{#each serials as serial (serial)}<option value={serial}></option>{/each}</datalist
      >
    {/if}
    <p class="muted">
      It will be named <strong class="mono"
        >{takeName(plan.naming, facts, number, { plan: name, atMs: Date.now() })}</strong
      >{#if plan.folder}, in <strong class="mono"
          >{takeName(plan.folder, facts, number, { plan: name, atMs: Date.now() })}</strong
        >{/if}. The facts are kept in the take.
    </p>
    <div class="list" aria-label="Pre-flight" role="group">
      {#if checks === null}<p class="muted">Looking at everything once …</p>
      {:else if against.length === 0}<p class="well">● Nothing is wrong or doubtful.</p>
      {:else}<strong class="sum"
          >{against.length === 1 ? 'One thing is' : `${against.length} things are`} wrong or doubtful</strong
        >{/if}
      <ul>
        {#each shown as c, k (k)}
          <li class={c.how.replaceAll(' ', '-')}>
            <span class="sign" title={c.how}>{SIGN[c.how]}</span>
            <span class="what"
              ><strong>{c.where}</strong>
              {c.what}. <span class="muted">{c.why ?? ''} {c.next}</span></span
            >
            {#if c.way}<button type="button" class="dotted" onclick={() => void take(c)}>{c.way.label}</button
              >{/if}
          </li>
        {/each}
      </ul>
      {#if (checks?.length ?? 0) > shown.length}<button
          type="button"
          class="dotted"
          onclick={() => (all = true)}>and {checks!.length - shown.length} more</button
        >{/if}
    </div>
    {#if against.length}
      <Label for="reason" class="mb-1">Why it is armed all the same</Label>
      <Input
        id="reason"
        bind:value={reason}
        placeholder="Kept in the take"
        autocomplete="off"
        maxlength={1000}
      />
    {/if}
    {#if lookFault}<FaultNote fault={lookFault} />{/if}
    {#if fault}<div class="fault"><FaultNote {fault} /></div>{/if}
    <div class="row">
      <Button type="submit" disabled={checks === null}>{against.length ? 'Arm anyway' : 'Arm'}</Button>
      <Button color="alternative" onclick={() => (open = false)}>Not yet</Button>
    </div>
  </form>
</Dialog>

<style>
  .facts {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: var(--space-2) var(--space-4);
    margin-bottom: var(--space-2);
  }
  select {
    width: 100%;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--paper);
    font-size: var(--type-body);
    padding: var(--space-2);
  }
  .list {
    border-top: 1px solid var(--line);
    border-bottom: 1px solid var(--line);
    padding: var(--space-2) 0;
    margin: var(--space-2) 0;
    max-height: 300px;
    overflow: auto;
  }
  .list p {
    margin: 0;
  }
  .sum {
    color: var(--ochre);
  }
  .well {
    color: var(--moss);
  }
  li {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
    padding: var(--space-1) 0;
    border-bottom: 1px solid var(--hair);
    line-height: 1.4;
  }
  li:last-child {
    border: 0;
  }
  .what {
    flex: 1;
  }
  li button {
    flex-shrink: 0;
    font-size: var(--type-small);
  }
  .wrong .sign {
    color: var(--red);
  }
  .doubtful .sign {
    color: var(--ochre);
  }
  .good-to-know .sign {
    color: var(--muted);
  }
  .fault {
    margin-top: var(--space-2);
  }
  .row {
    display: flex;
    gap: var(--space-2);
    margin-top: var(--space-3);
  }
</style>
