<!-- The job's plans: which one is armed next, its name, copies, and where they differ. -->
<script lang="ts">
  import type { Overview } from '$contract/overview';
  import { Button } from 'flowbite-svelte';
  import Dialog from '../kit/Dialog.svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { plans: Overview['plans']; current: Overview['plan'] };
  let { plans, current }: Props = $props();
  const shell = useShell();

  let open = $state(false);
  let compared = $state.raw<{ plans: string[]; rows: { label: string; values: string[] }[] } | null>(null);
  let fault = $state<FaultText | null>(null);

  async function act(work: () => Promise<unknown>) {
    try {
      await work();
      fault = null;
      await shell.refresh();
      // Where they differ is of the plans as they are now.
      if (open) await compare();
    } catch (error) {
      fault = faultText(error);
    }
  }
  const choose = (id: string) => act(() => call('POST /api/plans/[id]', { params: { id } }));
  const rename = (id: string, name: string) =>
    act(() => call('PATCH /api/plans/[id]', { params: { id }, body: { name } }));
  const remove = (id: string) => act(() => call('DELETE /api/plans/[id]', { params: { id } }));
  const free = (base: string) => {
    let k = 2;
    while (plans.some((p) => p.name === `${base} ${k}`)) k++;
    return `${base} ${k}`;
  };
  const add = (from?: { id: string; name: string }) =>
    act(() => call('POST /api/plans', { body: { name: free(from?.name ?? 'Plan'), from: from?.id } }));
  async function compare() {
    compared = await call('GET /api/plans').catch(() => null);
  }
</script>

<label class="pick">
  <span class="visually-hidden">Plan armed next</span>
  <select
    value={current.id}
    onchange={(e) => void choose(e.currentTarget.value)}
    aria-label="Plan armed next"
  >
    {#each plans as plan (plan.id)}<option value={plan.id}>{plan.name}</option>{/each}
  </select>
</label>
<button class="dotted small" onclick={() => ((open = true), void compare())}
  >{plans.length === 1 ? '1 plan' : `${plans.length} plans`}</button
>

<Dialog bind:open title="Plans of this job" size="lg">
  {#if fault}<FaultNote {fault} />{/if}
  <table class="plain">
    <tbody>
      {#each plans as plan (plan.id)}
        <tr>
          <td
            ><input
              class="name"
              value={plan.name}
              aria-label="Name of the plan {plan.name}"
              onchange={(e) => void rename(plan.id, e.currentTarget.value)}
            /></td
          >
          <td class="muted">{plan.id === current.id ? 'armed next' : ''}</td>
          <td class="acts">
            {#if plan.id !== current.id}<button class="dotted" onclick={() => void choose(plan.id)}
                >arm next</button
              >{/if}
            <button class="dotted" onclick={() => void add(plan)}>copy</button>
            {#if plans.length > 1}<button class="dotted" onclick={() => void remove(plan.id)}>remove</button
              >{/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
  <Button size="sm" color="alternative" onclick={() => void add()}>Add an empty plan</Button>
  {#if compared && compared.plans.length > 1}
    <h3>Where they differ</h3>
    <div class="scroll">
      <table class="plain compare">
        <thead
          ><tr
            ><th></th>{#each compared.plans as name (name)}<th>{name}</th>{/each}</tr
          ></thead
        >
        <tbody>
          {#each compared.rows as row (row.label)}
            <tr
              ><td class="muted">{row.label}</td>{#each row.values as value, k (k)}<td>{value}</td>{/each}</tr
            >
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
</Dialog>

<style>
  select {
    font-size: var(--type-title);
    font-weight: 700;
    letter-spacing: -0.01em;
    border: 1px solid transparent;
    background-color: transparent;
    padding: 0 var(--space-8) 0 var(--space-half);
    border-radius: var(--radius);
    max-width: 420px;
    text-overflow: ellipsis;
  }
  select:hover {
    border-color: var(--line);
  }
  option {
    font-size: var(--type-body);
    background: var(--card);
  }
  .visually-hidden {
    position: absolute;
    clip-path: inset(50%);
    width: 1px;
    height: 1px;
    overflow: hidden;
  }
  .small {
    font-size: var(--type-small);
  }
  .name {
    border: 1px solid transparent;
    background: none;
    font-weight: 600;
    padding: var(--space-half) var(--space-1);
    border-radius: var(--radius);
    width: 260px;
    font-size: var(--type-body);
  }
  .name:hover,
  .name:focus {
    border-color: var(--line);
  }
  .acts {
    text-align: right;
    white-space: nowrap;
  }
  .acts button {
    margin-left: var(--space-3);
  }
  h3 {
    font-weight: 650;
    margin: var(--space-4) 0 var(--space-1);
  }
  .scroll {
    overflow: auto;
    max-height: 42vh;
  }
  .compare td,
  .compare th {
    vertical-align: top;
    text-align: left;
    padding-right: var(--space-4);
    font-size: var(--type-small);
  }
</style>
