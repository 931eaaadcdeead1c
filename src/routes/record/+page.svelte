<script lang="ts">
  import RecordPage from '$ui/record/RecordPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<RecordPage overview={data.overview!} />
