<script lang="ts">
  import type { Channel } from '$contract/channel';
  import CheckList from '../kit/CheckList.svelte';
  import { unitText } from '../shell/reading';

  type Props = { channels: Channel[]; chosen: string[]; choose: (ids: string[]) => void; close: () => void };
  let { channels, chosen, choose, close }: Props = $props();

  const MOST = 8;
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && close()} />
<div class="choice" role="dialog" aria-label="Strips">
  <div class="head">
    <strong>Strips</strong> <span class="muted">up to {MOST}</span><button onclick={close} aria-label="Close"
      >✕</button
    >
  </div>
  <CheckList
    items={channels.map((c) => ({ id: c.id, name: c.name, about: unitText(c) }))}
    {chosen}
    most={MOST}
    change={choose}
  />
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
    padding: var(--space-2) var(--space-3);
  }
  .head {
    display: flex;
    gap: var(--space-2);
    margin-bottom: var(--space-1);
  }
  .head button {
    margin-left: auto;
  }
</style>
