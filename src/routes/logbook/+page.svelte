<script lang="ts">
  import LogbookPage from '$ui/logbook/LogbookPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<LogbookPage
  overview={data.overview!}
  entries={data.entries}
  kinds={data.kinds}
  chain={data.chain}
  filter={data.filter}
/>
