<script lang="ts">
  import ModalPage from '$ui/modal/ModalPage.svelte';
  import { useShell } from '$ui/shell/shell.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
  const takes = $derived(shell.overview.takes.filter((t) => t.state !== 'recording'));
</script>

{#key data.opened.id}<ModalPage
    opened={data.opened}
    frames={data.frames}
    signals={data.signals}
    forces={data.forces}
    {takes}
  />{/key}
