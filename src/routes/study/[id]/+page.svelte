<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import StudyPage from '$ui/study/StudyPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
</script>

<StudyPage overview={shell.overview} study={data.study} take={data.take} variants={data.variants} />
