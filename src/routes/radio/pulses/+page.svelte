<script lang="ts">
  import PulsesPage from '$ui/radio/PulsesPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<PulsesPage views={data.views} shown={data.shown} />
