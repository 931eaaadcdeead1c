<!-- What is done with an analysis as a whole: files, its wireframe, ± by drawing, what goes. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import type { NamedFrame } from '$contract/wireframe';
  import { call } from '../api';
  import type { Analysis } from './analysis.svelte';
  import RunsChoice from './RunsChoice.svelte';

  type Props = {
    analysis: Analysis;
    frames: { frame: NamedFrame }[];
    takes: { id: string; name: string }[];
    close: () => void;
  };
  let { analysis, frames, takes, close }: Props = $props();
  let choosing = $state(false);
  const { set, view } = $derived(analysis);
  const remove = () =>
    analysis.say(async () => {
      await call('DELETE /api/modal/[id]', { params: { id: view.id } });
      await goto(resolve('/study/modal'), { invalidateAll: true });
    });
  const OUT = [['shapes', 'Shapes on their nodes, universal file (55)'], ['functions', 'Functions, universal file (58)'], ['csv', 'Table, CSV'], ['json', 'All numbers, JSON']] as const; // prettier-ignore
</script>

{#if choosing}
  <RunsChoice
    {takes}
    taken={new Set(view.sets.flatMap((s) => s.spans.map((p) => p.take)))}
    go={(some) => {
      close();
      void analysis.say(() => analysis.runs(some));
    }}
  />
{:else}
  <div class="menu">
    {#each OUT as [as, says] (as)}<a
        class="dotted"
        href={resolve(`/api/modal/${view.id}/sets/${set.id}/file?as=${as}` as '/api/modal')}
        download>{says}</a
      >{/each}
    <label
      >Drawn on <select
        class="plain"
        value={view.frame ?? ''}
        onchange={(e) => void analysis.say(() => analysis.onFrame(e.currentTarget.value || null))}
        ><option value="">responses in a row</option>{#each frames as f (f.frame.id)}<option
            value={f.frame.id}>{f.frame.name}</option
          >{/each}</select
      ></label
    >
    <button class="dotted" onclick={() => (choosing = true)}>Do the same for more takes</button>
    {#if view.frame}<a class="dotted" href={resolve(`/study/modal/frames/${view.frame}`)}
        >Change the wireframe</a
      >{/if}
    <button class="dotted" onclick={() => void analysis.say(() => analysis.spread(50))}
      >± from 50 draws of the span’s blocks</button
    >
    {#if view.sets.length > 1}<button
        class="dotted"
        onclick={() => void analysis.say(() => analysis.remove(set.id))}>Take this set away</button
      >{/if}
    <button class="dotted" onclick={() => void remove()}>Remove the analysis</button>
  </div>
{/if}

<style>
  .menu {
    display: grid;
    gap: var(--space-2);
    justify-items: start;
  }
</style>
