<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import CalibrateOverview from '$ui/calibrate/CalibrateOverview.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

<CalibrateOverview proofs={data.proofs} channels={shell.overview.channels} />
