<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import { page } from '$app/state';
  import BridgesBench from '$ui/calibrate/BridgesBench.svelte';
  import { isBridge } from '$contract/proof';

  const only = $derived((page.url.searchParams.get('only') ?? '').split(',').filter(Boolean));
  const shell = useShell();
</script>

<BridgesBench bridges={shell.overview.channels.filter(isBridge)} {only} />
