<!-- Finds anything: channels, takes, places, actions. -->
<script lang="ts">
  import Dialog from '../kit/Dialog.svelte';

  export interface Find {
    kind: string;
    name: string;
    /** What tells it from another of the same name. */
    about?: string;
    go: () => void;
  }
  type Props = { open: boolean; finds: Find[] };
  let { open = $bindable(), finds }: Props = $props();

  let text = $state('');
  let at = $state(0);
  const words = $derived(text.toLowerCase().split(/\s+/).filter(Boolean));
  const hits = $derived(
    finds
      .filter((f) => words.every((w) => `${f.kind} ${f.name} ${f.about ?? ''}`.toLowerCase().includes(w)))
      .slice(0, 12),
  );

  function keys(event: KeyboardEvent) {
    if (event.key === 'ArrowDown') at = Math.min(hits.length - 1, at + 1);
    else if (event.key === 'ArrowUp') at = Math.max(0, at - 1);
    else if (event.key === 'Enter' && hits[at]) go(hits[at]);
    else return;
    event.preventDefault();
  }
  function go(find: Find) {
    open = false;
    text = '';
    at = 0;
    find.go();
  }
  const focus = (input: HTMLInputElement) => void requestAnimationFrame(() => input.focus());
</script>

<Dialog bind:open size="sm" dismissable={false} outsideclose>
  <input
    class="find"
    {@attach focus}
    placeholder="Find a channel, a take, a place, an action"
    bind:value={text}
    oninput={() => (at = 0)}
    onkeydown={keys}
    aria-label="Find anything"
  />
  <ul>
    {#each hits as hit, i (`${hit.kind} ${hit.name} ${hit.about}`)}
      <li>
        <button class:at={i === at} onclick={() => go(hit)}
          ><span class="muted">{hit.kind}</span>
          {hit.name}
          {#if hit.about}<span class="muted about">{hit.about}</span>{/if}</button
        >
      </li>
    {:else}
      <li class="muted none">Nothing is called that.</li>
    {/each}
  </ul>
</Dialog>

<style>
  .find {
    width: 100%;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-2) var(--space-3);
    font-size: var(--type-reading);
  }
  ul {
    margin-top: var(--space-2);
  }
  li button {
    width: 100%;
    text-align: left;
    padding: var(--space-1) var(--space-2);
    border-radius: var(--radius);
  }
  li button.at,
  li button:hover {
    background: var(--tint);
  }
  .muted {
    display: inline-block;
    min-width: 72px;
  }
  .about {
    font-size: var(--type-small);
    margin-left: var(--space-1);
  }
  .none {
    padding: var(--space-1) var(--space-2);
  }
</style>
