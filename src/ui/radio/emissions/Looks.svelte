<!-- Looks of the job: which one stands out, which lie behind it, pictures of the arrangement of the one that is shown. -->
<script lang="ts">
  import FloatBox from '../../kit/FloatBox.svelte';
  import type { EmissionDesk } from './emission-desk.svelte';

  type Props = { desk: EmissionDesk; anchor: HTMLElement; highest: boolean; close: () => void };
  let { desk, anchor, highest = $bindable(), close }: Props = $props();
  const order = $derived([...desk.runs].reverse());
</script>

<FloatBox {anchor} label="Looks laid over" {close}>
  <div class="box">
    <ul>
      {#each order as r (r.id)}
        <li>
          <label
            ><input
              type="checkbox"
              aria-label="Lay look {r.number} over"
              checked={desk.behind.includes(r.id)}
              disabled={r.id === desk.run?.id}
              onchange={(e) => desk.lay(r.id, e.currentTarget.checked)}
            /></label
          >
          <button
            type="button"
            class="dotted"
            aria-pressed={r.id === desk.run?.id}
            onclick={() => desk.show(r.id)}>look {r.number}</button
          >
          <span class="muted"
            >{new Date(r.atMs).toTimeString().slice(0, 5)}, {r.ambient ? 'without the device' : r.device}, {r
              .suspects.length} suspects{r.partly ? ', not whole' : ''}</span
          >
          <button type="button" class="quiet" onclick={() => void desk.drop(r.id)}>take away</button>
        </li>
      {/each}
    </ul>
    <label
      ><input type="checkbox" bind:checked={highest} disabled={desk.behind.length === 0} /> only the highest of
      them</label
    >
    {#if desk.run}
      <p class="muted">Pictures of the arrangement of look {desk.run.number}</p>
      <div class="pictures">
        {#each desk.run.pictures as src, k (k)}
          <button
            type="button"
            aria-label="Take picture {k + 1} away"
            title="Take it away"
            onclick={() => void desk.dropPicture(k)}><img {src} alt="The arrangement, {k + 1}" /></button
          >
        {/each}
        <label class="file"
          ><span class="dotted">add a picture</span><input
            type="file"
            accept="image/png,image/jpeg"
            onchange={(e) => {
              const picked = e.currentTarget.files?.[0];
              e.currentTarget.value = '';
              if (picked) void desk.addPicture(picked);
            }}
          /></label
        >
      </div>
    {/if}
  </div>
</FloatBox>

<style>
  .box {
    display: grid;
    gap: var(--space-2);
    min-width: 360px;
    font-size: var(--type-small);
  }
  ul {
    max-height: 260px;
    overflow-y: auto;
  }
  li {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
    white-space: nowrap;
  }
  [aria-pressed='true'] {
    color: var(--ink);
    text-decoration: none;
  }
  .quiet {
    margin-left: auto;
    color: var(--muted);
  }
  .pictures {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-2);
    align-items: center;
  }
  img {
    height: 48px;
    border: 1px solid var(--line);
  }
  .file {
    cursor: pointer;
  }
  .file input {
    position: absolute;
    opacity: 0;
    width: 1px;
  }
</style>
