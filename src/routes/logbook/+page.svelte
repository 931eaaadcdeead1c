<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import LogbookPage from '$ui/logbook/LogbookPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

<LogbookPage
  overview={shell.overview}
  entries={data.entries}
  kinds={data.kinds}
  chain={data.chain}
  filter={data.filter}
/>
