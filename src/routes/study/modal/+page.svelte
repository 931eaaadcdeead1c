<script lang="ts">
  import ModalList from '$ui/modal/ModalList.svelte';
  import { useShell } from '$ui/shell/shell.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

<ModalList overview={shell.overview} analyses={data.analyses} frames={data.frames} />
