<!-- What is connected to what in this step, drawn as boxes: what changes now is plum. -->
<script lang="ts">
  import type { NoiseView } from '$contract/radio-noise';

  type Props = {
    view: NoiseView;
    source: string;
    device: string;
    kelvin: string;
    through: boolean;
    on: boolean;
  };
  let { view, source, device, kelvin, through, on }: Props = $props();

  /** Boxes between the ends of the drawing, share of its width. */
  const boxes = $derived([
    { name: 'Noise source', says: `${source}, ${on ? 'on' : 'off'}`, plum: true },
    ...(through ? [{ name: 'Device under test', says: device, plum: false }] : []),
    { name: view.name, says: `${kelvin}, ${view.settings.each} MHz a point`, plum: false },
  ]);
</script>

<div class="chain" role="img" aria-label={boxes.map((b) => `${b.name}, ${b.says}`).join('; then ')}>
  {#each boxes as box, k (box.name)}
    {#if k > 0}<span class="joint" aria-hidden="true"></span>{/if}
    <div class="box" class:plum={box.plum} class:on={box.plum && on}>
      <b>{box.name}</b>
      <span class="muted">{box.says}</span>
    </div>
  {/each}
</div>

<style>
  .chain {
    display: flex;
    align-items: center;
    padding-top: var(--space-2);
  }
  .box {
    position: relative;
    border: 1.5px solid var(--ink);
    border-radius: var(--radius);
    padding: var(--space-2) var(--space-3);
    display: grid;
    justify-items: center;
    min-width: 140px;
    max-width: 220px;
    font-size: var(--type-small);
    background: var(--card);
  }
  .box b,
  .box .muted {
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .plum {
    border-color: var(--plum);
  }
  .plum.on {
    background: var(--tint);
  }
  /* Its supply, from above: filled while it is on. */
  .plum::before {
    content: '';
    position: absolute;
    bottom: 100%;
    left: 50%;
    height: var(--space-2);
    border-left: 1.5px solid var(--plum);
  }
  .plum::after {
    content: '';
    position: absolute;
    bottom: calc(100% + var(--space-1));
    left: calc(50% - 3px);
    width: 7px;
    height: 7px;
    border: 1.5px solid var(--plum);
    background: var(--card);
    box-sizing: border-box;
  }
  .plum.on::after {
    background: var(--plum);
  }
  .joint {
    flex: 0 1 80px;
    min-width: 24px;
    height: 0;
    border-top: 2px solid var(--ink);
    position: relative;
  }
  .joint::before,
  .joint::after {
    content: '';
    position: absolute;
    top: -4px;
    width: 6px;
    height: 6px;
    border-radius: 50%;
    background: var(--ink);
    left: -3px;
  }
  .joint::after {
    left: auto;
    right: -3px;
  }
</style>
