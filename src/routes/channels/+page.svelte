<script lang="ts">
  import ChannelsPage from '$ui/channels/ChannelsPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<ChannelsPage overview={data.overview!} />
