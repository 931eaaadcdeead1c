<script lang="ts">
  import SensorsPage from '$ui/sensors/SensorsPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<SensorsPage sensors={data.sensors} />
