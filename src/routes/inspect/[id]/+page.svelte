<script lang="ts">
  import InspectPage from '$ui/inspect/InspectPage.svelte';
  import { useShell } from '$ui/shell/shell.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

<InspectPage
  overview={shell.overview}
  takes={data.takes}
  looked={data.looked}
  drawings={data.drawings}
  written={data.written}
/>
