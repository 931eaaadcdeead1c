<script lang="ts">
  import Bench from '$ui/calibrate/PointsBench.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

{#key data.channel.id}<Bench
    channel={data.channel}
    channels={data.channels}
    history={data.history}
    present={data.present}
    linear={data.linear}
  />{/key}
