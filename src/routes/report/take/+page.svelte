<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import ReportPage from '$ui/report/ReportPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

<ReportPage overview={shell.overview} take={data.take} studies={data.studies} />
