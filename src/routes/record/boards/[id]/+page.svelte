<script lang="ts">
  import BoardPage from '$ui/board/BoardPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

{#key data.board.id}<BoardPage overview={data.overview!} board={data.board} />{/key}
