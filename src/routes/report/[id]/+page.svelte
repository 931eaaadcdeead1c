<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import EditorPage from '$ui/report/EditorPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

{#key data.report.id}
  <EditorPage overview={shell.overview} report={data.report} take={data.take} studies={data.studies} />
{/key}
