<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import ReportsPage from '$ui/report/ReportsPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

<ReportsPage
  overview={shell.overview}
  reports={data.reports}
  gone={data.gone}
  spreadsheets={data.spreadsheets}
  style={data.style}
  templates={data.templates}
  take={data.take}
/>
