<!-- What is brought along by a change: formulas, rules, plans and boards, before and after. -->
<script lang="ts">
  type Props = { follows: { what: string; before: string; after: string }[] };
  let { follows }: Props = $props();
</script>

<ul>
  {#each follows as f, k (k)}
    <li>
      <strong>{f.what}</strong>
      <span class="muted">{f.before}</span>
      <span class="next">{f.after}</span>
    </li>
  {/each}
</ul>

<style>
  ul {
    list-style: none;
    margin: var(--space-1) 0 0;
    padding: 0;
    max-height: 260px;
    overflow: auto;
  }
  li {
    display: grid;
    gap: var(--space-half);
    padding: var(--space-1) 0;
    border-top: 1px solid var(--line);
    font-size: var(--type-small);
  }
  .next {
    color: var(--plum);
  }
</style>
