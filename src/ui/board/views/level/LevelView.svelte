<!-- Root mean square over time. -->
<script lang="ts">
  import StripView from '../strip/StripView.svelte';
  import type { ViewProps } from '../view';

  let props: ViewProps = $props();
</script>

<StripView {...props} rms />
