<script lang="ts">
  import StudyList from '$ui/study/StudyList.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<StudyList overview={data.overview!} studies={data.studies} />
