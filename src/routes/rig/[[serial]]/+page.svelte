<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import { page } from '$app/state';
  import RigPage from '$ui/rig/RigPage.svelte';

  const shell = useShell();
</script>

<RigPage overview={shell.overview} serial={page.params.serial ?? null} />
