<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import RecordPage from '$ui/record/RecordPage.svelte';

  const shell = useShell();
</script>

<RecordPage overview={shell.overview} />
