<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import StudyList from '$ui/study/StudyList.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

<StudyList overview={shell.overview} studies={data.studies} />
