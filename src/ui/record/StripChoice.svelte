<script lang="ts">
  import type { Channel } from '$contract/channel';
  import { unitText } from '../shell/reading';

  type Props = { channels: Channel[]; chosen: string[]; choose: (ids: string[]) => void; close: () => void };
  let { channels, chosen, choose, close }: Props = $props();

  const MOST = 8;
  const toggle = (id: string) =>
    choose(chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id].slice(-MOST));
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && close()} />
<div class="choice" role="dialog" aria-label="Strips">
  <div class="head">
    <strong>Strips</strong> <span class="muted">up to {MOST}</span><button onclick={close} aria-label="Close"
      >✕</button
    >
  </div>
  {#each channels as c (c.id)}
    <label
      ><input type="checkbox" checked={chosen.includes(c.id)} onchange={() => toggle(c.id)} />
      {c.name} <span class="muted">{unitText(c)}</span></label
    >
  {/each}
</div>

<style>
  .choice {
    position: fixed;
    right: 24px;
    top: 108px;
    z-index: 50;
    width: 270px;
    max-height: 70vh;
    overflow: auto;
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    box-shadow: 0 8px 26px rgb(38 33 29 / 0.16);
    padding: 10px 12px;
  }
  .head {
    display: flex;
    gap: 8px;
    margin-bottom: 6px;
  }
  .head button {
    margin-left: auto;
  }
  label {
    display: flex;
    gap: 8px;
    align-items: center;
    padding: 2px 0;
  }
</style>
