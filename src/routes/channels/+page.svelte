<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import ChannelsPage from '$ui/channels/ChannelsPage.svelte';

  const shell = useShell();
</script>

<ChannelsPage overview={shell.overview} />
