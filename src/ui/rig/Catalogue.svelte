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
    font-size: 12.5px;
    font-weight: 600;
    color: var(--muted);
    margin: 10px 0 4px;
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
    gap: 12px;
    width: 100%;
    text-align: left;
    padding: 7px 6px;
  }
  button:hover,
  button:focus-visible {
    background: var(--tint);
  }
</style>
