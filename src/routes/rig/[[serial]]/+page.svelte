<script lang="ts">
  import { page } from '$app/state';
  import RigPage from '$ui/rig/RigPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<RigPage overview={data.overview!} serial={page.params.serial ?? null} />
