<script lang="ts">
  import { Modal } from 'flowbite-svelte';

  type Props = { open: boolean; path: string };
  let { open = $bindable(), path }: Props = $props();

  const EVERYWHERE: [string, string][] = [
    ['Ctrl K', 'find anything'],
    ['A', 'arm a take'],
    ['S', 'start the armed take'],
    ['E', 'end the take'],
    ['R', 'all outputs to rest'],
    ['Q', 'silence the alarm; it stays visible'],
    ['U', 'show readings with their uncertainty'],
    ['Ctrl Z', 'undo the last change; with Shift, redo'],
  ];
  const HERE: Record<string, [string, string][]> = {
    '/record': [
      ['M', 'mark this moment'],
      ['H', 'hold the view'],
    ],
    '/inspect': [
      ['← →', 'move the chosen cursor; with Shift, ten times as far'],
      ['1 2', 'choose a cursor'],
      ['Backspace', 'back out of a zoom'],
      ['0', 'show the whole take'],
    ],
    '/calibrate': [
      ['Space', 'measure the next point, or stop measuring'],
      ['↑ ↓', 'choose a point'],
      ['M', 'measure the chosen point again'],
      ['X', 'leave the chosen point out, or take it in again'],
      ['L', 'large type, to be read from the rig'],
      ['Enter', 'accept'],
      ['B', 'balance the chosen bridges'],
      ['C', 'check their shunts'],
    ],
    '/channels': [['↑ ↓', 'step through the channels']],
  };
  const here = $derived(Object.entries(HERE).find(([start]) => path.startsWith(start))?.[1] ?? []);
</script>

<Modal bind:open title="Keys" size="sm">
  <dl>
    {#each [...here, ...EVERYWHERE] as [key, what] (key)}
      <dt><kbd>{key}</kbd></dt>
      <dd>{what}</dd>
    {/each}
  </dl>
</Modal>

<style>
  dl {
    display: grid;
    grid-template-columns: 90px 1fr;
    gap: 7px;
  }
</style>
