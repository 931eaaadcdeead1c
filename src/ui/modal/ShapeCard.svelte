<!-- A mode in motion on the wireframe, with what can be done to the picture. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import type { Motion } from '$core/wireframe/motion';
  import type { Wireframe } from '$core/wireframe/wireframe';
  import Complexity from './Complexity.svelte';
  import FloatBox from '../kit/FloatBox.svelte';
  import Late from '../kit/Late.svelte';
  import type { DrawnShape } from './frame-plot';
  import { saveGif, savePng, type Pictured } from './moving-picture';

  type Props = {
    title: string;
    says: string;
    frame: Wireframe;
    shapes: { motion: Motion; colour: string }[];
    name: string;
    night: boolean;
    /** The numbers behind the first of them, by response: for the picture of how complex it is. */
    numbers?: { shape: { re: number[]; im: number[] }; names: string[] };
    /** Small and without controls. */
    plain?: boolean;
  };
  let { title, says, frame, shapes, name, night, numbers, plain = false }: Props = $props();

  let speed = $state(0.5);
  let reach = $state(0.35);
  let still = $state(false);
  onMount(() => void (still = matchMedia('(prefers-reduced-motion: reduce)').matches));
  let phase = $state(0);
  let real = $state(false);
  let arrows = $state(false);
  let coloured = $state(true);
  let names = $state(false);
  let complex = $state(false);
  let view: (Pictured & { from(d: readonly [number, number, number]): void }) | undefined = $state();
  const drawn = $derived<DrawnShape[]>(
    real
      ? shapes.map((s) => ({ ...s, motion: { ...s.motion, im: new Float64Array(s.motion.im.length) } }))
      : shapes,
  );
  const look = $derived({ phase, reach, names, sensors: false, arrows, coloured, rest: true, marked: null });
  const VIEWS = [['askew', [-1, -1.35, 0.75]], ['along x', [-1, 0, 0]], ['along y', [0, -1, 0]], ['from above', [0, -0.001, 1]]] as const; // prettier-ignore
  let saving = $state(false);
  let looking = $state<HTMLElement | null>(null);
  async function save(as: 'gif' | 'png') {
    if (!view) return;
    saving = true;
    try {
      if (as === 'gif') await saveGif(view, name, speed);
      else savePng(view, name, still ? phase : 0);
    } finally {
      saving = false;
    }
  }
</script>

<div class="shape">
  <p class="title"><strong>{title}</strong><span class="muted">{says}</span></p>
  <div class="seen">
    <Late part={() => import('./FrameView.svelte')}>
      {#snippet children(View)}
        <View
          bind:this={view}
          {frame}
          shapes={drawn}
          {look}
          {speed}
          {night}
          moving={!still}
          label="{title}, {says}: turned by dragging or arrows"
        />
      {/snippet}
    </Late>
    {#if complex && numbers}<Complexity {...numbers} />{/if}
  </div>
  {#if !plain}
    <div class="row">
      <button class="dotted" onclick={() => (speed = Math.max(0.05, speed / 1.5))}>slower</button>
      <button class="dotted" onclick={() => (speed = Math.min(6, speed * 1.5))}>faster</button>
      <input
        type="range"
        min="0"
        max="360"
        step="5"
        aria-label="Phase"
        value={Math.round((phase * 180) / Math.PI)}
        oninput={(e) => {
          still = true;
          phase = (Number(e.currentTarget.value) * Math.PI) / 180;
        }}
      />
      <button class="dotted" aria-pressed={still} onclick={() => (still = !still)}
        >{still ? 'move' : 'still'}</button
      >
      <button class="dotted" onclick={() => (reach = Math.max(0.05, reach / 1.3))}>smaller</button>
      <button class="dotted" onclick={() => (reach = Math.min(2, reach * 1.3))}>larger</button>
      <button class="dotted" aria-haspopup="dialog" onclick={(e) => (looking = e.currentTarget)}
        >turn and save</button
      >
    </div>
    {#if looking}
      <FloatBox anchor={looking} label="How it is drawn" close={() => (looking = null)}>
        <div class="menu">
          <p>
            {#each VIEWS as [word, direction] (word)}<button
                class="dotted"
                onclick={() => view?.from(direction)}>{word}</button
              >
            {/each}
          </p>
          <label
            ><input type="checkbox" bind:checked={real} />as a real shape, all in phase or against it</label
          >
          <label><input type="checkbox" bind:checked={coloured} />coloured by how far it is out</label>
          <label><input type="checkbox" bind:checked={arrows} />arrows at the sensors</label>
          <label><input type="checkbox" bind:checked={names} />names of points</label>
          {#if numbers}<label
              ><input type="checkbox" bind:checked={complex} />sizes and phases of the responses beside it</label
            >{/if}
          <p>
            <button class="dotted" disabled={saving} onclick={() => void save('gif')}
              >{saving ? 'saving…' : 'save it moving (GIF)'}</button
            >
            <button class="dotted" onclick={() => void save('png')}>save it still (PNG)</button>
          </p>
        </div>
      </FloatBox>
    {/if}
  {/if}
</div>

<style>
  .shape {
    display: flex;
    flex-direction: column;
    gap: var(--space-1);
    min-height: 0;
    min-width: 0;
    flex: 1;
    padding: var(--space-3) var(--space-4);
  }
  .seen {
    position: relative;
    display: flex;
    flex-direction: column;
    flex: 1;
    min-height: 0;
  }
  .title {
    margin: 0;
    display: flex;
    flex-wrap: wrap;
    column-gap: var(--space-2);
    align-items: baseline;
  }
  .title span {
    font-size: var(--type-small);
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-1) var(--space-3);
    align-items: center;
    font-size: var(--type-small);
  }
  label {
    display: flex;
    gap: var(--space-1);
    align-items: center;
  }
  input[type='range'] {
    flex: 1;
    min-width: 60px;
    accent-color: var(--plum-fill);
  }
  .menu {
    display: grid;
    gap: var(--space-2);
    font-size: var(--type-small);
  }
  .menu p {
    margin: 0;
    display: flex;
    gap: var(--space-3);
  }
</style>
