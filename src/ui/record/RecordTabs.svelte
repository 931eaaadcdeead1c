<!-- The views of Record: the plan, the job's boards, alarms. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { page } from '$app/state';
  import { call, faultText } from '../api';
  import { useShell } from '../shell/shell.svelte';

  type Props = { boards: { id: string; name: string }[] };
  let { boards }: Props = $props();
  const shell = useShell();
  const path = $derived<string>(page.url.pathname);
  const open = $derived(shell.feed.alarms.open.filter((a) => a.takenAt === null).length);

  async function add() {
    const names = new Set(boards.map((b) => b.name));
    let k = boards.length + 1;
    while (names.has(`Board ${k}`)) k++;
    try {
      const { id } = await call('POST /api/boards', { body: { name: `Board ${k}` } });
      await shell.refresh();
      await goto(resolve('/record/boards/[id]', { id }));
    } catch (error) {
      shell.say(faultText(error));
    }
  }
</script>

<nav class="tabs" aria-label="Record">
  <a href={resolve('/record')} aria-current={path === '/record' ? 'page' : undefined}>Plan and rules</a>
  {#each boards as board (board.id)}
    <a
      href={resolve('/record/boards/[id]', { id: board.id })}
      aria-current={path === `/record/boards/${board.id}` ? 'page' : undefined}>{board.name}</a
    >
  {/each}
  <button onclick={() => void add()} title="Add a board of live views">+ board</button>
  <a
    class="alarms"
    href={resolve('/record/alarms')}
    aria-current={path === '/record/alarms' ? 'page' : undefined}>Alarms{open ? ` · ${open}` : ''}</a
  >
</nav>

<style>
  .tabs {
    display: flex;
    gap: var(--space-1);
    border-bottom: 1px solid var(--line);
    overflow-x: auto;
    flex-shrink: 0;
    scrollbar-width: none;
  }
  a,
  button {
    padding: var(--space-1) var(--space-3);
    color: var(--muted);
    white-space: nowrap;
    border-bottom: 2px solid transparent;
    margin-bottom: -1px;
    font-size: var(--type-body);
  }
  a:hover,
  button:hover {
    color: var(--plum);
  }
  a[aria-current] {
    color: var(--plum);
    font-weight: 650;
    border-color: var(--plum);
  }
  .alarms {
    margin-left: auto;
  }
</style>
