<script lang="ts">
  import { resolve } from '$app/paths';
  import { Button, Input } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import { useShell } from '../shell/shell.svelte';
  import type { LogEntry, Overview } from '$contract/overview';

  type Props = { overview: Overview; entries: LogEntry[] };
  let { overview, entries }: Props = $props();
  const shell = useShell();

  let search = $state('');
  let note = $state('');
  const found = $derived(
    entries.filter((e) => `${e.kind} ${e.says} ${e.by}`.toLowerCase().includes(search.toLowerCase())),
  );
  const days = $derived.by(() => {
    const byDay: Record<string, typeof found> = {};
    for (const e of found)
      (byDay[
        new Date(e.at).toLocaleDateString('en-GB', {
          weekday: 'long',
          day: 'numeric',
          month: 'long',
          year: 'numeric',
        })
      ] ??= []).push(e);
    return Object.entries(byDay);
  });
  const takeName = (id: string | null) => overview.takes.find((t) => t.id === id)?.name;

  async function add() {
    try {
      await call('POST', '/api/logbook', { says: note });
      note = '';
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
</script>

<div class="page">
  <div class="page-head">
    <h1>Logbook</h1>
    <span class="aside">what happened, written by itself</span>
    <div class="actions">
      <div class="search">
        <Input
          size="sm"
          placeholder="Find in the logbook"
          bind:value={search}
          aria-label="Find in the logbook"
        />
      </div>
    </div>
  </div>
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void add();
    }}
  >
    <Input
      size="sm"
      placeholder="Write a note; it keeps its time{shell.feed.status.state === 'Recording'
        ? ' and its take'
        : ''}"
      bind:value={note}
      aria-label="Note"
    />
    <Button size="sm" color="alternative" type="submit" disabled={!note.trim()}>Add the note</Button>
  </form>
  {#if entries.length === 0}
    <Empty says="Nothing has happened in this job yet." />
  {:else}
    <div class="card book">
      {#each days as [day, entries] (day)}
        <h2>{day}</h2>
        <table class="plain">
          <tbody>
            {#each entries as e (e.id)}
              {@const name = takeName(e.takeId)}
              <tr>
                <td class="mono time">{new Date(e.at).toLocaleTimeString('en-GB')}</td>
                <td class="kind {e.kind}">{e.kind}</td>
                <td
                  >{e.says}{#if name}&ensp;<a class="dotted" href={resolve(`/inspect/${e.takeId}`)}>{name}</a
                    >{/if}</td
                >
                <td class="muted by">{e.by}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      {:else}
        <p class="muted none">Nothing in the logbook says that.</p>
      {/each}
      {#if entries.length === 200}<a
          class="dotted older"
          href="{resolve('/logbook')}?before={entries.at(-1)?.id}">older entries</a
        >{/if}
    </div>
  {/if}
</div>

<style>
  .search {
    width: 190px;
  }
  form {
    display: flex;
    gap: 10px;
  }
  .book {
    overflow: auto;
    flex: 1;
    min-height: 0;
    padding: 4px 16px 12px;
  }
  h2 {
    margin: 12px 0 2px;
    color: var(--muted);
    font-size: 12.5px;
  }
  .time {
    width: 84px;
    color: var(--muted);
    font-size: 12.5px;
  }
  .kind {
    width: 84px;
    color: var(--muted);
    font-size: 12.5px;
  }
  .kind.started,
  .kind.ended {
    color: var(--ember);
  }
  .kind.trouble {
    color: var(--red);
  }
  .kind.limit {
    color: var(--ochre);
  }
  .kind.mark,
  .kind.note {
    color: var(--plum);
  }
  .by {
    width: 60px;
    font-size: 12px;
    text-align: right;
  }
  .older,
  .none {
    display: inline-block;
    margin-top: 10px;
  }
</style>
