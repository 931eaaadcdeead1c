<!-- Kinds of unit that can be added, each with one line. -->
<script lang="ts">
  import { UNIT_KINDS } from '$contract/units/kinds';

  type Props = { add: (kind: string) => void };
  let { add }: Props = $props();
  const parts = [
    { title: 'At an address', kinds: UNIT_KINDS.filter((k) => !k.standIn) },
    { title: 'Stand-ins, for work without hardware', kinds: UNIT_KINDS.filter((k) => k.standIn) },
  ];
</script>

{#each parts as part (part.title)}
  <h3>{part.title}</h3>
  <ul>
    {#each part.kinds as kind (kind.kind)}
      <li>
        <button onclick={() => add(kind.kind)} data-kind={kind.kind}
          ><strong>{kind.title}</strong><span class="muted">{kind.says}</span></button
        >
      </li>
    {/each}
  </ul>
{/each}

<style>
  h3 {
    font-size: var(--type-small);
    font-weight: 600;
    color: var(--muted);
    margin: var(--space-2) 0 var(--space-1);
  }
  h3:first-child {
    margin-top: 0;
  }
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
    border-top: 1px solid var(--line);
  }
  li {
    border-bottom: 1px solid var(--line);
  }
  button {
    display: grid;
    grid-template-columns: 130px 1fr;
    gap: var(--space-3);
    width: 100%;
    text-align: left;
    padding: var(--space-2) var(--space-1);
  }
  button:hover,
  button:focus-visible {
    background: var(--tint);
  }
</style>
