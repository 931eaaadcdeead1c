<!-- The pictures of a page on the grid of boards: moved, sized, added, taken away; kept with the receiver. -->
<script lang="ts">
  import { tick, type Snippet } from 'svelte';
  import type { RadioView } from '$contract/radio';
  import { NUMBERS_ID, PICTURE_ROWS, type Picture, type Pictured } from '$contract/radio-pictures';
  import { call, faultText } from '../api';
  import Arranged from '../kit/Arranged.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    page: Pictured;
    view: RadioView;
    told: (views: RadioView[]) => void;
    /** The picture itself. @param choose what it shows @param remove takes it away */
    picture: Snippet<[Picture, (shows: string) => void, () => void]>;
    numbers: Snippet;
  };
  let { page, view, told, picture, numbers }: Props = $props();
  const shell = useShell();
  let high = $state(0);
  let grid = $state<Arranged<Picture>>();
  const rowPx = $derived(Math.max(28, Math.floor(high / PICTURE_ROWS)));
  let all = $state.raw<readonly Picture[]>([]);
  $effect.pre(() => void (all = view.pictures[page]));

  async function keep(pictures: readonly Picture[]) {
    all = pictures.length ? pictures : all;
    try {
      const body = { page, pictures: [...pictures] };
      told(await call('PUT /api/radio/[unit]/pictures', { params: { unit: view.unit }, body }));
      shell.say(null);
    } catch (error) {
      all = view.pictures[page];
      shell.say(faultText(error));
    }
  }
  /** Adds a picture below the others. */
  export async function add(shows: string): Promise<void> {
    const id = crypto.randomUUID().slice(0, 8);
    const bottom = Math.max(0, ...all.map((p) => p.y + p.h));
    void keep([...all, { id, shows, x: 0, y: bottom, w: 8, h: 4 }]);
    await tick();
    grid?.show(id);
  }
  /** All stand again as they did in the beginning. */
  export const anew = (): void => void keep([]);
  const choose = (id: string) => (shows: string) =>
    void keep(all.map((p) => (p.id === id ? { ...p, shows } : p)));
  const remove = (id: string) => () => void keep(all.filter((p) => p.id !== id));
</script>

<div class="scroll" bind:clientHeight={high}>
  {#if high > 0}
    <Arranged bind:this={grid} things={all} {rowPx} handle=".picture-head" moved={(next) => void keep(next)}>
      {#snippet thing(p)}
        {#if p.id === NUMBERS_ID}{@render numbers()}{:else}{@render picture(
            p,
            choose(p.id),
            remove(p.id),
          )}{/if}
      {/snippet}
    </Arranged>
  {/if}
</div>

<style>
  .scroll {
    flex: 1;
    min-height: 0;
    overflow: auto;
    scrollbar-width: thin;
    margin: 0 calc(-1 * var(--space-1));
  }
  .scroll :global(.grid-stack-item-content > .card) {
    height: 100%;
  }
</style>
