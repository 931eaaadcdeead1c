<!-- What one thinks of some takes, with the reason. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { VERDICTS, type Verdict } from '$contract/take';
  import { call, faultText, type FaultText } from '../api';
  import Dialog from '../kit/Dialog.svelte';
  import FaultNote from '../kit/FaultNote.svelte';

  type Props = { open: boolean; takes: { id: string; name: string }[]; done: () => void };
  let { open = $bindable(), takes, done }: Props = $props();
  let verdict = $state<Verdict>('good');
  let reason = $state('');
  let fault = $state<FaultText | null>(null);
  let busy = $state(false);
  const MEANS: Record<Verdict, string> = {
    good: 'it shows what it should',
    doubtful: 'use it with care',
    void: 'it counts in no series',
  };

  async function judge() {
    busy = true;
    try {
      await call('POST /api/judgements', { body: { takes: takes.map((t) => t.id), verdict, reason } });
      [open, fault, reason] = [false, null, ''];
      done();
    } catch (error) {
      fault = faultText(error);
    } finally {
      busy = false;
    }
  }
</script>

<Dialog
  bind:open
  title={takes.length === 1 ? `Judge ${takes[0].name}` : `Judge ${takes.length} takes`}
  size="sm"
>
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void judge();
    }}
  >
    <div role="radiogroup" aria-label="Verdict">
      {#each VERDICTS as v (v)}
        <label
          ><input type="radio" name="verdict" value={v} bind:group={verdict} /> <strong>{v}</strong>
          <span class="muted">{MEANS[v]}</span></label
        >
      {/each}
    </div>
    <label class="why"
      >Why <input
        type="text"
        bind:value={reason}
        maxlength="400"
        placeholder={verdict === 'good' ? 'if there is something to say' : 'what is wrong with it'}
      /></label
    >
    <p class="muted">It stands in the take with your name, beside earlier verdicts; the last one counts.</p>
    {#if fault}<FaultNote {fault} />{/if}
    <Button type="submit" size="sm" disabled={busy}>Judge it</Button>
  </form>
</Dialog>

<style>
  form {
    display: grid;
    gap: var(--space-3);
    justify-items: start;
  }
  [role='radiogroup'] {
    display: grid;
    gap: var(--space-1);
  }
  .why {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: var(--space-2);
    align-items: center;
    width: 100%;
  }
  .why input {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-1) var(--space-2);
    font-size: var(--type-body);
  }
  p {
    margin: 0;
    font-size: var(--type-small);
  }
</style>
