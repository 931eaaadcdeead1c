<!-- The facts a plan asks for, each as its sentence. -->
<script lang="ts">
  import type { Names } from '$core/sentence/sentence';
  import { factSentence, type Fact } from '$contract/fact';
  import { Button } from 'flowbite-svelte';
  import Dialog from '../kit/Dialog.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';

  type Props = {
    open: boolean;
    facts: Fact[];
    names: Names;
    change: (next: Fact[]) => Promise<unknown>;
    add: () => Promise<unknown>;
  };
  let { open = $bindable(), facts, names, change, add }: Props = $props();

  const set = (k: number) => (key: string, value: unknown) =>
    change(facts.map((f, i) => (i === k ? { ...f, [key]: value } : f)));
</script>

<Dialog bind:open title="Facts asked before a take" size="md">
  <p class="muted">They are kept in the take, can make its name and folder, and stand in reports.</p>
  <ul>
    {#each facts as fact, k (k)}
      <li>
        <SentenceView sentence={factSentence} value={fact} {names} change={set(k)} />
        <button
          class="remove"
          aria-label="Do not ask for {fact.name}"
          onclick={() => void change(facts.filter((_, i) => i !== k))}>remove</button
        >
      </li>
    {:else}<li class="muted">Nothing is asked yet.</li>{/each}
  </ul>
  <Button size="sm" color="alternative" onclick={() => void add()}>Ask for one more</Button>
</Dialog>

<style>
  ul {
    margin: var(--space-1) 0 var(--space-3);
  }
  li {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
    border-bottom: 1px solid var(--hair);
  }
  .remove {
    margin-left: auto;
    color: var(--muted);
    font-size: var(--type-small);
  }
  .remove:hover {
    color: var(--plum);
  }
</style>
