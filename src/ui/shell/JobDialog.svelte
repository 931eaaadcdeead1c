<script lang="ts">
  import { Button, Input, Label } from 'flowbite-svelte';
  import Dialog from '../kit/Dialog.svelte';
  import type { BodyIn } from '$contract/api';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';

  type Job = { id: string; name: string; place: string };
  type Props = { open: boolean; jobs: Job[]; current: string; changed: () => void };
  let { open = $bindable(), jobs, current, changed }: Props = $props();

  let name = $state('');
  let place = $state('');
  let fault = $state<FaultText | null>(null);

  async function act(body: BodyIn<'POST /api/jobs'>) {
    try {
      await call('POST /api/jobs', { body });
      fault = null;
      open = false;
      name = place = '';
      changed();
    } catch (error) {
      fault = faultText(error);
    }
  }
</script>

<Dialog bind:open title="Jobs" size="sm">
  <ul>
    {#each jobs as job (job.id)}
      <li>
        <button class:here={job.id === current} onclick={() => act({ id: job.id })}
          ><strong>{job.name}</strong> <span class="muted">{job.place}</span></button
        >
      </li>
    {/each}
  </ul>
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void act({ name, place });
    }}
  >
    <Label for="job-name" class="mb-1">A new job</Label>
    <Input id="job-name" bind:value={name} placeholder="Name of the test campaign" class="mb-2" />
    <Input bind:value={place} placeholder="Place" aria-label="Place" class="mb-3" />
    {#if fault}<FaultNote {fault} />{/if}
    <Button type="submit" disabled={!name.trim()}>Create it</Button>
  </form>
</Dialog>

<style>
  ul {
    margin-bottom: var(--space-3);
  }
  li button {
    width: 100%;
    text-align: left;
    padding: var(--space-1) var(--space-2);
    border-radius: var(--radius);
  }
  li button:hover {
    background: var(--tint);
  }
  .here strong {
    color: var(--plum);
  }
</style>
