<script lang="ts">
  import { enhance } from '$app/forms';
  import { Button, Input, Label } from 'flowbite-svelte';
  import FaultNote from '$ui/kit/FaultNote.svelte';
  import type { PageProps } from './$types';

  let { form }: PageProps = $props();
</script>

<form method="POST" use:enhance>
  <img src="/mark.svg" alt="" width="34" height="34" />
  <h1>Farrier</h1>
  <Label for="phrase">Access phrase</Label>
  <Input id="phrase" name="phrase" type="password" autocomplete="current-password" autofocus />
  {#if form?.error}<FaultNote fault={form.error} />{/if}
  <Button type="submit">Enter</Button>
</form>

<style>
  form {
    width: 320px;
    margin: 18vh auto 0;
    display: grid;
    gap: var(--space-3);
  }
</style>
