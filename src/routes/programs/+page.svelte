<script lang="ts">
  import ProgramsPage from '$ui/programs/ProgramsPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<ProgramsPage tokens={data.tokens} origin={data.origin} />
