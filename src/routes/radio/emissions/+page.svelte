<script lang="ts">
  import EmissionsPage from '$ui/radio/emissions/EmissionsPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<EmissionsPage {...data} />
