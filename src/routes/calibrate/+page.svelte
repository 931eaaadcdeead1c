<script lang="ts">
  import CalibrateOverview from '$ui/calibrate/CalibrateOverview.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<CalibrateOverview proofs={data.proofs} channels={data.overview!.channels} />
