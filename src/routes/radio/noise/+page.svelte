<script lang="ts">
  import NoisePage from '$ui/radio/noise/NoisePage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<NoisePage {...data} />
