<script lang="ts">
  import { resolve } from '$app/paths';
  import { Button } from 'flowbite-svelte';
  import Empty from '$ui/kit/Empty.svelte';
  import BringIn from '$ui/take/BringIn.svelte';

  let bringing = $state(false);
</script>

<div class="page">
  <div class="page-head"><h1>Inspect</h1></div>
  <Empty says="Nothing is recorded yet. Arm a take; it is here the second it ends."
    ><Button href={resolve('/record')}>To the plan</Button>
    <Button color="alternative" onclick={() => (bringing = true)}>Bring in a recording</Button></Empty
  >
</div>
<BringIn bind:open={bringing} />
