<script lang="ts">
  import AlarmsPage from '$ui/record/AlarmsPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<AlarmsPage overview={data.overview!} alarms={data.alarms} />
