<!-- A part of a page that is fetched once it is wanted, and stays from then on. -->
<script lang="ts" generics="Part">
  import type { Snippet } from 'svelte';
  import FaultNote from './FaultNote.svelte';

  type Props = {
    part: () => Promise<{ default: Part }>;
    /** Such as whether its dialog is open. */
    wanted?: boolean;
    children: Snippet<[Part]>;
  };
  let { part, wanted = true, children }: Props = $props();

  let once = $state(false);
  $effect.pre(() => {
    if (wanted) once = true;
  });
</script>

{#if once}
  {#await part() then { default: Found }}
    {@render children(Found)}
  {:catch}
    <FaultNote
      fault={{
        what: 'A part of this page could not be fetched.',
        why: 'The server did not answer, or is another version now.',
        next: 'Reload the page.',
      }}
    />
  {/await}
{/if}
