<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import AlarmsPage from '$ui/record/AlarmsPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

<AlarmsPage overview={shell.overview} alarms={data.alarms} />
