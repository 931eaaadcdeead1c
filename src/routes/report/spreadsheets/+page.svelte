<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import SpreadsheetsPage from '$ui/spreadsheets/SpreadsheetsPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

<SpreadsheetsPage
  overview={shell.overview}
  spreadsheets={data.spreadsheets}
  watched={data.watched}
  take={data.take}
/>
