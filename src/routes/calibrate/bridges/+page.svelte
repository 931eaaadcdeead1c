<script lang="ts">
  import { page } from '$app/state';
  import BridgesBench from '$ui/calibrate/BridgesBench.svelte';
  import { isBridge } from '$contract/proof';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const only = $derived((page.url.searchParams.get('only') ?? '').split(',').filter(Boolean));
</script>

<BridgesBench bridges={data.overview!.channels.filter(isBridge)} {only} />
