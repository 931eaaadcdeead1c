<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import BoardPage from '$ui/board/BoardPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

{#key data.board.id}<BoardPage overview={shell.overview} board={data.board} />{/key}
