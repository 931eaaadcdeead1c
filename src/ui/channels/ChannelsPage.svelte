<script lang="ts">
  import { goto, replaceState } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { page } from '$app/state';
  import { onMount } from 'svelte';
  import { channelKind, roleOf, type Channel } from '$contract/channel';
  import { Button, Input } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import AddChannel from '../channels/AddChannel.svelte';
  import ChannelPanel from '../channels/ChannelPanel.svelte';
  import { STATE_SIGN, groupOf, liveText, rangeShare, unitText } from '../shell/reading';
  import { useShell } from '../shell/shell.svelte';
  import type { Overview } from '$contract/overview';

  type Props = { overview: Overview };
  let { overview }: Props = $props();
  const shell = useShell();
  const { feed } = shell;

  const channels = $derived(overview.channels);
  let search = $state('');
  let chosenId = $state<string | null>(null);
  let adding = $state(false);
  let addAt = $state<string | null>(null);

  const found = $derived(
    channels.filter((c) =>
      `${c.name} ${c.group} ${c.wire?.terminal ?? ''} ${c.sensorSerial} ${c.kind}`
        .toLowerCase()
        .includes(search.toLowerCase().trim()),
    ),
  );
  const groups = $derived.by(() => {
    const byName: Record<string, Channel[]> = {};
    for (const c of found) (byName[groupOf(c)] ??= []).push(c);
    return Object.entries(byName);
  });
  const chosen = $derived(channels.find((c) => c.id === chosenId) ?? found[0] ?? null);
  const count = (role: string) => channels.filter((c) => roleOf(c) === role).length;

  onMount(() => {
    addAt = page.url.searchParams.get('add');
    if (addAt) adding = true;
  });
  $effect(() => {
    const hash = page.url.hash.slice(1);
    if (hash) chosenId = hash;
  });
  $effect(() => {
    if (chosen) feed.want([chosen.id]);
  });

  function choose(id: string) {
    chosenId = id;
    replaceState(resolve(`/channels#${id}`), {});
  }
  function keys(event: KeyboardEvent) {
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    event.preventDefault();
    const flat = groups.flatMap(([, members]) => members);
    const at = flat.findIndex((c) => c.id === chosen?.id);
    const next = flat[Math.min(flat.length - 1, Math.max(0, at + (event.key === 'ArrowDown' ? 1 : -1)))];
    if (!next) return;
    choose(next.id);
    document.querySelector<HTMLElement>(`tr[data-id="${next.id}"]`)?.focus();
  }
  async function remove(channel: Channel) {
    try {
      await call('DELETE', `/api/channels/${channel.id}`);
      chosenId = null;
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const calibration = (c: Channel) =>
    c.calibration
      ? `${c.calibration.points.length} points, ${new Date(c.calibration.at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })}`
      : roleOf(c) === 'computed'
        ? 'follows inputs'
        : roleOf(c) === 'driven' || c.kind === 'contact'
          ? ''
          : 'sheet';
</script>

<div class="page">
  <div class="page-head">
    <h1>Channels</h1>
    <span class="aside"
      >{count('measured')} measured · {count('driven')} driven · {count('computed')} computed</span
    >
    <div class="actions">
      <div class="search">
        <Input size="sm" placeholder="Find a channel" bind:value={search} aria-label="Find a channel" />
      </div>
      <Button size="sm" onclick={() => ((addAt = null), (adding = true))}>Add channel</Button>
    </div>
  </div>
  {#if channels.length === 0}
    <Empty
      says="A channel is a name for what a terminal measures. Add the first one from a free terminal of the rig."
      ><Button onclick={() => (adding = true)}>Add channel</Button></Empty
    >
  {:else}
    <div class="columns">
      <div class="card list">
        <table class="plain">
          <thead>
            <tr
              ><th>Name</th><th>Sensor</th><th>Wired to</th><th class="num">Now</th><th>Of range</th><th
                >Calibration</th
              ></tr
            >
          </thead>
          <tbody>
            {#each groups as [group, members] (group)}
              <tr class="group"><td colspan="6">{group}</td></tr>
              {#each members as c (c.id)}
                {@const state = feed.stateOf(c.id)}
                <tr
                  data-id={c.id}
                  data-name={c.name}
                  class:here={c.id === chosen?.id}
                  tabindex={c.id === chosen?.id ? 0 : -1}
                  aria-selected={c.id === chosen?.id}
                  onclick={() => choose(c.id)}
                  onkeydown={keys}
                >
                  <td class="name" title={c.name}>{c.name}</td>
                  <td class="sensor" title={channelKind(c.kind).title(c.settings)}
                    >{channelKind(c.kind).title(c.settings)}</td
                  >
                  <td class="mono wire">{c.wire?.terminal ?? ''}</td>
                  <td class="num" class:red={state === 'open' || state === 'alarm' || state === 'over range'}>
                    {#if state === 'open' || state === 'over range' || state === 'lost'}{state}{:else}{liveText(
                        c,
                        feed.value(c.id),
                      )} <span class="muted">{unitText(c)}</span>{/if}
                  </td>
                  <td class="range">
                    {#if state === 'open' || state === 'over range'}<span class="red">◇ check wiring</span>
                    {:else}<span class="bar"
                        ><span class={state} style:width="{rangeShare(c, feed.value(c.id)) * 100}%"
                        ></span></span
                      >{#if state === 'warning' || state === 'alarm'}<span class="sign {state}"
                          >{STATE_SIGN[state]}</span
                        >{/if}{/if}
                  </td>
                  <td class="muted calibration">{calibration(c)}</td>
                </tr>
              {/each}
            {:else}
              <tr><td colspan="6" class="muted">No channel is called that.</td></tr>
            {/each}
          </tbody>
        </table>
      </div>
      {#if chosen}{#key chosen.id}<ChannelPanel
            channel={chosen}
            {channels}
            units={feed.status.units}
            onremove={() => void remove(chosen)}
          />{/key}{/if}
    </div>
  {/if}
</div>

<AddChannel
  bind:open={adding}
  terminal={addAt}
  {channels}
  units={feed.status.units}
  added={(id) => ((chosenId = id), void goto(resolve(`/channels#${id}`)))}
/>

<style>
  .search {
    width: 190px;
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 330px;
    gap: 14px;
    flex: 1;
    min-height: 0;
  }
  .list {
    overflow: auto;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
    z-index: 1;
  }
  .group td {
    background: var(--stone);
    font-size: 12px;
    font-weight: 650;
    color: var(--muted);
    padding: 3px 8px;
  }
  tbody tr:not(.group) {
    cursor: pointer;
  }
  tr.here td {
    background: var(--tint);
  }
  .name {
    font-weight: 600;
    max-width: 170px;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .sensor {
    max-width: 130px;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .wire {
    font-size: 12.5px;
  }
  td.num {
    min-width: 112px;
  }
  .red {
    color: var(--red);
  }
  .range {
    white-space: nowrap;
    font-size: 12.5px;
  }
  .bar {
    display: inline-block;
    width: 96px;
    height: 7px;
    border-radius: 4px;
    background: color-mix(in srgb, var(--line) 65%, transparent);
    overflow: hidden;
  }
  .bar span {
    display: block;
    height: 100%;
    background: var(--tooth);
  }
  .bar .warning {
    background: var(--ochre-fill);
  }
  .bar .alarm {
    background: var(--red);
  }
  .sign {
    margin-left: 5px;
    font-size: 11.5px;
  }
  .sign.warning {
    color: var(--ochre);
  }
  .sign.alarm {
    color: var(--red);
  }
  .calibration {
    font-size: 12.5px;
    white-space: nowrap;
  }
</style>
