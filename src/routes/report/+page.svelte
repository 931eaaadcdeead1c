<script lang="ts">
  import ReportPage from '$ui/report/ReportPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<ReportPage overview={data.overview!} take={data.take} studies={data.studies} />
