<script lang="ts">
  import FieldPage from '$ui/field/FieldPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<FieldPage field={data.field} out={data.out} shown={data.shown} />
