<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import TakePage from '$ui/take/TakePage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

<TakePage overview={shell.overview} take={data.take} written={data.written} />
