<script lang="ts">
  import ModalPage from '$ui/modal/ModalPage.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

{#key data.opened.id}<ModalPage opened={data.opened} frames={data.frames} signals={data.signals} />{/key}
