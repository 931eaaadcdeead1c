<script lang="ts">
  import Dialog from '../kit/Dialog.svelte';

  type Props = { open: boolean; path: string };
  let { open = $bindable(), path }: Props = $props();

  const EVERYWHERE: [string, string][] = [
    ['Ctrl K', 'find anything'],
    ['F', 'to the comb: ← → step through it, Enter goes to the channel'],
    ['A', 'arm a take'],
    ['S', 'start the armed take'],
    ['E', 'end the take'],
    ['R', 'all outputs to rest'],
    ['Q', 'silence the alarm; it stays visible'],
    ['U', 'show readings with their uncertainty'],
    ['Ctrl Z', 'undo the last change'],
    ['Ctrl Y', 'redo it, as Ctrl Shift Z does'],
    ['?', 'show these keys'],
  ];
  /** Keys of pages by how their address begins; the longest that fits counts. */
  const HERE: Record<string, [string, string][]> = {
    '/record': [
      ['M', 'mark this moment'],
      ['H', 'hold the view'],
    ],
    '/record/alarms': [],
    '/record/boards': [
      ['H', 'hold the view'],
      ['Shift F', 'full screen'],
      ['P', 'extremes begin anew'],
      ['← →', 'step the chosen view through the channels'],
    ],
    '/inspect': [
      [
        '← →',
        'move the chosen cursor a pixel; with Shift ten, with Alt a sample, with Ctrl to the next peak',
      ],
      ['1 2', 'choose a cursor; Delete takes it away'],
      ['[ ]', 'let another of several takes stand out'],
      ['+ −', 'narrower and wider about the cursor'],
      ['Page ↑ ↓', 'earlier and later'],
      ['Backspace', 'back out of a zoom; with Shift forward again'],
      ['0', 'show all of it'],
      ['C', 'copy the readings at the cursors'],
      ['N', 'write a note at the cursor, or between both'],
      ['X', 'export'],
    ],
    '/radio': [
      ['P', 'the chosen pin onto the highest'],
      ['← →', 'to the next peak in frequency'],
      ['↓ ↑', 'to the next lower or higher peak'],
      ['L', 'level line'],
      ['C', 'copy the peaks'],
      ['B', 'record the band'],
      ['H', 'hold the view'],
    ],
    '/calibrate/bridges': [
      ['B', 'balance the chosen bridges'],
      ['C', 'check their shunts'],
    ],
    '/calibrate/': [
      ['Space', 'measure the next point, or stop measuring'],
      ['↑ ↓', 'choose a point'],
      ['M', 'measure the chosen point again'],
      ['X', 'leave the chosen point out, or take it in again'],
      ['L', 'large type, to be read from the rig'],
      ['Enter', 'accept'],
    ],
    '/channels': [
      ['↑ ↓ ← →', 'step through the cells; with Shift, choose several'],
      ['Enter', 'edit the cell; with Ctrl, write to all that are chosen'],
      ['Ctrl D', 'fill down'],
      ['Ctrl C, V', 'to and from a spreadsheet'],
      ['Alt ↑ ↓', 'move the channel'],
    ],
    '/channels/sensors': [],
  };
  const here = $derived(
    Object.entries(HERE)
      .filter(([start]) => path.startsWith(start))
      .sort(([a], [b]) => b.length - a.length)[0]?.[1] ?? [],
  );
</script>

<Dialog bind:open title="Keys" size="sm">
  <dl>
    {#each [...here, ...EVERYWHERE] as [key, what] (key)}
      <dt><kbd>{key}</kbd></dt>
      <dd>{what}</dd>
    {/each}
  </dl>
</Dialog>

<style>
  dl {
    display: grid;
    grid-template-columns: 90px 1fr;
    gap: var(--space-2);
  }
</style>
