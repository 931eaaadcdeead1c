<script lang="ts">
  import RadioPage from '$ui/radio/RadioPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<RadioPage views={data.views} shown={data.shown} />
