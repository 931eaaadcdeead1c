<script lang="ts">
  import { resolve } from '$app/paths';
  import { Button } from 'flowbite-svelte';
  import Empty from '$ui/kit/Empty.svelte';
</script>

<div class="page">
  <div class="page-head"><h1>Calibrate</h1></div>
  <Empty says="There is no channel that can be calibrated by points yet. Add one first."
    ><Button href={resolve('/channels')}>To the channels</Button></Empty
  >
</div>
