<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { Button, Input } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import TakeSelect from '../take/TakeSelect.svelte';
  import { useShell } from '../shell/shell.svelte';
  import type { LogEntry, Overview } from '$contract/overview';

  type Props = {
    overview: Overview;
    entries: LogEntry[];
    kinds: string[];
    chain: { whole: boolean; says: string };
    filter: { kind?: string; takeId?: string; text?: string };
  };
  let { overview, entries, kinds, chain, filter }: Props = $props();
  const shell = useShell();

  let note = $state('');
  let picture = $state<FileList>();
  const days = $derived.by(() => {
    const byDay: Record<string, typeof entries> = {};
    for (const e of entries)
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
  /** An entry that tells of a file. */
  const WRITTEN = / written to exports\/\S+\.csv\b/;
  const query = (change: Record<string, string | number | undefined>) => {
    const all = { kind: filter.kind, take: filter.takeId, find: filter.text, ...change };
    return Object.entries(all)
      .filter(([, value]) => value)
      .map(([key, value]) => `${key}=${encodeURIComponent(value!)}`)
      .join('&');
  };
  const show = (change: Record<string, string>) =>
    void goto(resolve(`/logbook?${query(change)}`), { keepFocus: true, replaceState: true });

  async function add() {
    const form = new FormData();
    form.set('says', note);
    if (picture?.[0]) form.set('picture', picture[0]);
    try {
      await call('POST /api/logbook', { form });
      note = '';
      picture = undefined;
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
      <select
        value={filter.kind ?? ''}
        aria-label="Kind"
        onchange={(e) => show({ kind: e.currentTarget.value })}
      >
        <option value="">everything</option>
        {#each kinds as kind (kind)}<option value={kind}>{kind}</option>{/each}
      </select>
      <TakeSelect
        takes={overview.takes}
        value={filter.takeId ?? ''}
        label="Take"
        none="all takes and between"
        onchange={(id) => show({ take: id })}
      />
      <div class="search">
        <Input
          size="sm"
          placeholder="Find in the logbook"
          value={filter.text ?? ''}
          oninput={(e: Event) => show({ find: (e.currentTarget as HTMLInputElement).value })}
          aria-label="Find in the logbook"
        />
      </div>
      <a class="dotted" href={resolve(`/api/logbook?as=pdf&${query({})}`)} download>PDF</a>
      <a class="dotted" href={resolve(`/api/logbook?as=csv&${query({})}`)} download>CSV</a>
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
    <label class="dotted picture"
      >{picture?.[0]?.name ?? 'picture'}<input
        type="file"
        accept="image/png,image/jpeg,image/webp"
        bind:files={picture}
        aria-label="Picture"
      /></label
    >
    <Button size="sm" color="alternative" type="submit" disabled={!note.trim()}>Add the note</Button>
  </form>
  <p class="chain" class:broken={!chain.whole}>{chain.whole ? '●' : '◆'} {chain.says}</p>
  {#if entries.length === 0}
    <Empty
      says={filter.kind || filter.text || filter.takeId
        ? 'Nothing in the logbook says that.'
        : 'Nothing has happened in this job yet.'}
    />
  {:else}
    <div class="card book">
      {#each days as [day, entries] (day)}
        <h2>{day}</h2>
        <table class="plain">
          <tbody>
            {#each entries as e (e.id)}
              {@const name = e.take}
              <tr>
                <td class="mono time">{new Date(e.at).toLocaleTimeString('en-GB')}</td>
                <td class="kind {e.kind}">{e.kind}</td>
                <td
                  >{e.says}{#if name}&ensp;<a class="dotted" href={resolve(`/inspect/${e.takeId}`)}>{name}</a
                    >{/if}{#if e.takeId && WRITTEN.test(e.says)}&ensp;<a
                      class="dotted"
                      href={resolve(`/api/takes/${e.takeId}/written`)}
                      download>fetch it</a
                    >{/if}{#if e.picture}<a
                      href={resolve(`/api/pictures/${e.picture}`)}
                      target="_blank"
                      rel="noopener"
                      ><img src="/api/pictures/{e.picture}" alt="Belongs to the note" loading="lazy" /></a
                    >{/if}</td
                >
                <td class="muted by">{e.by}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      {/each}
      {#if entries.length === 200}<a
          class="dotted older"
          href="{resolve('/logbook')}?{query({ before: entries.at(-1)?.id })}">older entries</a
        >{/if}
    </div>
  {/if}
</div>

<style>
  .actions select {
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--card);
    padding: var(--space-1) var(--space-6) var(--space-1) var(--space-2);
    max-width: 170px;
  }
  .actions a {
    align-self: center;
  }
  .chain {
    margin: calc(-1 * var(--space-1)) 0;
    font-size: var(--type-small);
    color: var(--moss);
  }
  .chain.broken {
    color: var(--red);
  }
  .picture {
    align-self: center;
    flex: none;
    white-space: nowrap;
    max-width: 160px;
    overflow: hidden;
    text-overflow: ellipsis;
    cursor: pointer;
  }
  .picture input {
    position: absolute;
    opacity: 0;
    width: 1px;
  }
  .picture:focus-within {
    outline: 2px solid var(--plum);
  }
  img {
    max-height: 120px;
    border-radius: var(--radius);
    margin-top: var(--space-1);
    border: 1px solid var(--line);
  }
  .search {
    width: 190px;
  }
  form {
    display: flex;
    gap: var(--space-2);
  }
  .book {
    overflow: auto;
    flex: 1;
    min-height: 0;
    padding: var(--space-1) var(--space-4) var(--space-3);
  }
  h2 {
    margin: var(--space-3) 0 var(--space-half);
    color: var(--muted);
    font-size: var(--type-small);
  }
  .time {
    width: 84px;
    color: var(--muted);
    font-size: var(--type-small);
  }
  .kind {
    width: 84px;
    color: var(--muted);
    font-size: var(--type-small);
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
    font-size: var(--type-small);
    text-align: right;
  }
  .older {
    display: inline-block;
    margin-top: var(--space-2);
  }
</style>
