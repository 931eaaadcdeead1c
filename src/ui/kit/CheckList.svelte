<!-- Things to choose several of, each by its name. -->
<script lang="ts" generics="Id extends string | number">
  type Props = {
    items: readonly { id: Id; name: string; about?: string }[];
    chosen: readonly Id[];
    /** How many can be chosen; then the others wait. */
    most?: number;
    change: (chosen: Id[]) => void;
  };
  let { items, chosen, most = Infinity, change }: Props = $props();
  const toggle = (id: Id) => change(chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]);
</script>

{#each items as { id, name, about } (id)}
  {@const ticked = chosen.includes(id)}
  <label class:waits={!ticked && chosen.length >= most} title={name}>
    <input
      type="checkbox"
      checked={ticked}
      disabled={!ticked && chosen.length >= most}
      onchange={() => toggle(id)}
    />
    <span class="name"
      >{name}
      {#if about}<span class="muted">{about}</span>{/if}</span
    >
  </label>
{/each}

<style>
  label {
    display: flex;
    align-items: center;
    gap: var(--space-2);
    padding: var(--space-half) 0;
    flex-shrink: 0;
    min-width: 0;
  }
  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .waits {
    color: var(--muted);
  }
</style>
