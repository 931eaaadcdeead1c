<script lang="ts">
  import KindsPage from '$ui/study/KindsPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<KindsPage {...data} />
