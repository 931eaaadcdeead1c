<!-- Takes for which the same is to be done, each a set of its own. -->
<script lang="ts">
  type Props = {
    takes: { id: string; name: string }[];
    taken: ReadonlySet<string>;
    go: (takes: string[]) => void;
  };
  let { takes, taken, go }: Props = $props();
  let words = $state('');
  let chosen = $state<string[]>([]);
  const shown = $derived(
    takes.filter((t) => !taken.has(t.id) && t.name.toLowerCase().includes(words.trim().toLowerCase())),
  );
</script>

<div class="runs">
  <label>Takes <input class="plain" placeholder="whose name has…" bind:value={words} /></label>
  <ul>
    {#each shown as t (t.id)}
      <li>
        <label><input type="checkbox" value={t.id} bind:group={chosen} />{t.name}</label>
      </li>
    {:else}
      <li class="muted">No other take.</li>
    {/each}
  </ul>
  <p>
    <button
      class="dotted"
      disabled={shown.length === 0}
      onclick={() => (chosen = shown.slice(0, 39).map((t) => t.id))}>all {shown.length}</button
    >
    <button class="dotted" disabled={chosen.length === 0} onclick={() => go(chosen)}
      >do the same for {chosen.length === 1 ? 'it' : `these ${chosen.length}`}</button
    >
  </p>
</div>

<style>
  .runs {
    display: grid;
    gap: var(--space-2);
    font-size: var(--type-small);
  }
  label {
    display: flex;
    gap: var(--space-2);
    align-items: center;
  }
  ul {
    max-height: 240px;
    overflow: auto;
  }
  p {
    margin: 0;
    display: flex;
    gap: var(--space-4);
  }
</style>
