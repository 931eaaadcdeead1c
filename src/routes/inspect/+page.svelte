<script lang="ts">
  import { readAddress } from '$ui/inspect/address';
  import InspectPage from '$ui/inspect/InspectPage.svelte';
  import { useShell } from '$ui/shell/shell.svelte';

  const shell = useShell();
</script>

<InspectPage
  overview={shell.overview}
  takes={[]}
  looked={readAddress(new URLSearchParams())}
  drawings={[]}
  written={null}
/>
