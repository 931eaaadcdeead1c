<script lang="ts">
  import TakePage from '$ui/take/TakePage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<TakePage overview={data.overview!} take={data.take} written={data.written} />
