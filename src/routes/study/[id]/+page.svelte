<script lang="ts">
  import StudyPage from '$ui/study/StudyPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<StudyPage overview={data.overview!} study={data.study} take={data.take} />
