<script lang="ts">
  import FramePage from '$ui/modal/FramePage.svelte';
  import { useShell } from '$ui/shell/shell.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

{#key data.opened.frame.id}<FramePage
    overview={shell.overview}
    opened={data.opened}
    channels={data.channels}
  />{/key}
