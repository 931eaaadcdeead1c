<script lang="ts">
  import { resolve } from '$app/paths';
  import { Button } from 'flowbite-svelte';
  import Empty from '$ui/kit/Empty.svelte';
</script>

<div class="page">
  <div class="page-head"><h1>Inspect</h1></div>
  <Empty says="Nothing is recorded yet. Arm a take; it is here the second it ends."
    ><Button href={resolve('/record')}>To the plan</Button></Empty
  >
</div>
