<!-- Asks for the unit of each signal whose description has none that can be read; the channels are there already. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import Dialog from '../kit/Dialog.svelte';
  import { useShell } from '../shell/shell.svelte';
  import type { OddUnit } from './odd-units';

  type Props = { odd: OddUnit[] };
  let { odd = $bindable() }: Props = $props();
  const shell = useShell();
  let given = $state<Record<string, string>>({});
  let faults = $state<Record<string, string>>({});

  /** Units that were given are written; those that are none stay in the list with the reason. */
  async function take() {
    faults = {};
    const left: OddUnit[] = [];
    for (const one of odd) {
      const unit = given[one.channelId]?.trim();
      if (!unit) continue; // a bare number, then
      try {
        await call('PATCH /api/channels/[id]', {
          params: { id: one.channelId },
          body: { settings: { unit } },
        });
      } catch (error) {
        const { what, next } = faultText(error);
        faults[one.channelId] = [what, next].filter(Boolean).join(' ');
        left.push(one);
      }
    }
    await shell.refresh();
    odd = left;
  }
</script>

<Dialog
  bind:open={() => odd.length > 0, (shown) => !shown && (odd = [])}
  title="In which unit are these?"
  size="md"
>
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void take();
    }}
  >
    <p class="muted">
      Their description has something else for a unit. Left empty, they are read as bare numbers.
    </p>
    <table class="plain">
      <thead><tr><th>Channel</th><th>described in</th><th>is</th></tr></thead>
      <tbody>
        {#each odd as one (one.channelId)}
          <tr data-name={one.name}>
            <td>{one.name}</td>
            <td>“{one.written}”</td>
            <td>
              <input
                class="mono"
                aria-label="Unit of {one.name}"
                aria-invalid={one.channelId in faults}
                bind:value={given[one.channelId]}
                maxlength="40"
              />
              {#if faults[one.channelId]}<p class="wrong" role="alert">◆ {faults[one.channelId]}</p>{/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
    <div class="row"><Button size="sm" type="submit">Take them</Button></div>
  </form>
</Dialog>

<style>
  input {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-2);
    width: 130px;
  }
  .row {
    margin-top: var(--space-3);
  }
  .wrong {
    color: var(--red);
    font-size: var(--type-small);
    margin: var(--space-half) 0;
  }
</style>
