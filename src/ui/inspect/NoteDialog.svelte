<!-- A note at a moment of a take or over a span; or another one in the place of an earlier one. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { clockText } from '$core/readings';
  import { call, faultText, type FaultText } from '../api';
  import Dialog from '../kit/Dialog.svelte';
  import FaultNote from '../kit/FaultNote.svelte';

  type Props = {
    open: boolean;
    take: { id: string; name: string };
    note: { atS: number; untilS: number | null; says: string; replaces: number | null };
    done: () => void;
  };
  let { open = $bindable(), take, note, done }: Props = $props();
  let says = $state('');
  let fault = $state<FaultText | null>(null);
  $effect(() => {
    if (open) [says, fault] = [note.says, null];
  });

  async function write(text: string) {
    const { atS, untilS, replaces } = note;
    try {
      await call('POST /api/takes/[id]/notes', {
        params: { id: take.id },
        body: { atS, untilS, says: text, replaces },
      });
      open = false;
      done();
    } catch (error) {
      fault = faultText(error);
    }
  }
</script>

<Dialog bind:open title="Write on {take.name}" size="sm">
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void write(says);
    }}
  >
    <p class="muted">
      {note.untilS === null
        ? `At ${clockText(note.atS, 2)}`
        : `From ${clockText(note.atS, 2)} to ${clockText(note.untilS, 2)}`} of the take. It can be a span of a study,
      too.
    </p>
    <input type="text" bind:value={says} maxlength="400" aria-label="Note" placeholder="what is there" />
    {#if fault}<FaultNote {fault} />{/if}
    <div class="row">
      <Button type="submit" size="sm" disabled={!says.trim()}>Write it</Button>
      {#if note.replaces !== null}<Button size="sm" color="alternative" onclick={() => void write('')}
          >Take it back</Button
        >{/if}
    </div>
  </form>
</Dialog>

<style>
  form {
    display: grid;
    gap: var(--space-3);
  }
  input {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-1) var(--space-2);
    font-size: var(--type-body);
  }
  p {
    margin: 0;
  }
  .row {
    display: flex;
    gap: var(--space-2);
  }
</style>
