<script lang="ts">
  import ModulationPage from '$ui/radio/modulation/ModulationPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<ModulationPage views={data.views} shown={data.shown} />
