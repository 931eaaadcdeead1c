<script lang="ts">
  import { resolve } from '$app/paths';
  import { page } from '$app/state';
  import Empty from '$ui/kit/Empty.svelte';
</script>

<div class="page">
  <Empty says="{page.error?.message ?? 'This did not work.'} {page.error?.next ?? ''}"
    ><a class="dotted" href={resolve('/rig')}>To the rig</a></Empty
  >
</div>
