<!-- Every channel and how it is proven, what needs doing first; many are taken in hand at once. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { dayText, readingText } from '$core/readings';
  import type { Channel } from '$contract/channel';
  import { isBridge, isTodo, type Proof } from '$contract/proof';
  import { Button, Input } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import { useShell } from '../shell/shell.svelte';
  import { VERDICT_SIGN, dayOf } from './verdicts';

  type Props = { proofs: Proof[]; channels: Channel[] };
  let { proofs, channels }: Props = $props();
  const shell = useShell();

  let chosen = $state<string[]>([]);
  let search = $state('');
  let allShown = $state(false);
  let fault = $state<FaultText | null>(null);

  const byId = $derived(new Map(channels.map((c) => [c.id, c])));
  const rows = $derived(
    proofs.flatMap((proof) => {
      const channel = byId.get(proof.channelId);
      return channel ? [{ proof, channel }] : [];
    }),
  );
  const todo = $derived(proofs.filter((p) => isTodo(p.verdict)).length);
  const proven = $derived(proofs.filter((p) => p.verdict === 'proven' || p.verdict === 'due soon').length);
  const idle = $derived(rows.filter((r) => r.proof.verdict === 'nothing to prove').length);
  const shown = $derived(
    rows.filter(
      ({ proof, channel }) =>
        (allShown || proof.verdict !== 'nothing to prove') &&
        `${channel.name} ${channel.group} ${channel.sensorSerial} ${proof.verdict} ${proof.method}`
          .toLowerCase()
          .includes(search.toLowerCase().trim()),
    ),
  );
  const bridges = $derived(channels.filter(isBridge));
  const picked = $derived(chosen.flatMap((id) => byId.get(id) ?? []));
  const pickedBridges = $derived(picked.filter(isBridge));

  const toggle = (id: string) =>
    (chosen = chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]);
  const toBridges = () =>
    goto(
      resolve(
        pickedBridges.length
          ? `/calibrate/bridges?only=${pickedBridges.map((c) => c.id).join(',')}`
          : '/calibrate/bridges',
      ),
    );
  const together = () =>
    goto(
      resolve(
        `/calibrate/${chosen[0]}?way=points${chosen.length > 1 ? `&with=${chosen.slice(1).join(',')}` : ''}`,
      ),
    );
  async function tare(on: boolean) {
    try {
      await call('POST /api/calibrate/tare', { body: { channels: chosen, on } });
      fault = null;
      await shell.refresh();
    } catch (error) {
      fault = faultText(error);
    }
  }
</script>

<div class="page">
  <div class="page-head">
    <h1>Calibrate</h1>
    <span class="aside"
      >{todo ? `${todo} due before a take` : 'nothing is due'} · {proven} proven{idle
        ? ` · ${idle} with nothing to prove`
        : ''}</span
    >
    <div class="actions">
      <div class="search">
        <Input size="sm" placeholder="Find a channel" bind:value={search} aria-label="Find a channel" />
      </div>
      {#if chosen.length}
        <Button size="sm" color="alternative" onclick={() => void tare(true)}>Tare</Button>
        {#if picked.some((c) => c.tare)}<Button size="sm" color="alternative" onclick={() => void tare(false)}
            >Take the tare off</Button
          >{/if}
        <Button size="sm" color="alternative" onclick={() => void together()}
          >{chosen.length === 1 ? 'By points' : `${chosen.length} by points together`}</Button
        >
      {/if}
      {#if bridges.length}<Button size="sm" onclick={() => void toBridges()}
          >Zero and shunt {pickedBridges.length ? `of ${pickedBridges.length}` : 'all bridges'}</Button
        >{/if}
    </div>
  </div>
  {#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
  {#if channels.length === 0}
    <Empty says="There is no channel yet, so there is nothing to prove. Add channels first."
      ><Button href={resolve('/channels')}>To the channels</Button></Empty
    >
  {:else}
    <div class="card list">
      <table class="plain">
        <thead>
          <tr>
            <th
              ><input
                type="checkbox"
                aria-label="All that are due"
                checked={chosen.length > 0}
                onchange={(e) =>
                  (chosen = e.currentTarget.checked
                    ? shown.filter((r) => isTodo(r.proof.verdict)).map((r) => r.channel.id)
                    : [])}
              /></th
            >
            <th>Channel</th>
            <th>Verdict</th>
            <th>Method</th>
            <th>Date</th>
            <th>By</th>
            <th>Due</th>
            <th class="num">Residual</th>
            <th class="num">± 95 %</th>
            <th>What to do</th>
          </tr>
        </thead>
        <tbody>
          {#each shown as { proof, channel } (channel.id)}
            <tr data-channel={channel.name} class:idle={proof.verdict === 'nothing to prove'}>
              <td
                >{#if proof.verdict !== 'nothing to prove'}<input
                    type="checkbox"
                    aria-label="Choose {channel.name}"
                    checked={chosen.includes(channel.id)}
                    onchange={() => toggle(channel.id)}
                  />{/if}</td
              >
              <td class="name"
                >{#if proof.verdict === 'nothing to prove'}{channel.name}{:else}<a
                    class="dotted"
                    href={resolve(`/calibrate/${channel.id}`)}>{channel.name}</a
                  >{/if}{#if channel.tare}<span class="muted tare"> tared</span>{/if}</td
              >
              <td class="verdict {proof.verdict.replaceAll(' ', '-')}"
                >{VERDICT_SIGN[proof.verdict]} {proof.verdict}</td
              >
              <td>{proof.method}</td>
              <td class="mono">{dayOf(proof.at)}</td>
              <td>{proof.by}</td>
              <td class="mono">{dayText(proof.due)}</td>
              <td class="num">{proof.residual === null ? '' : readingText(proof.residual, { digits: 2 })}</td>
              <td class="num"
                >{proof.expanded === null
                  ? ''
                  : `${readingText(proof.expanded, { digits: 2 })} ${proof.unit}`}</td
              >
              <td class="todo" title="{proof.why} {proof.next}"><strong>{proof.next}</strong> {proof.why}</td>
            </tr>
          {:else}<tr><td colspan="10" class="muted">No channel is called that.</td></tr>{/each}
        </tbody>
      </table>
      {#if idle}<button class="dotted more" onclick={() => (allShown = !allShown)}
          >{allShown ? 'Leave out' : 'Show'}
          {idle} that {idle === 1 ? 'has' : 'have'} nothing to prove</button
        >{/if}
    </div>
  {/if}
</div>

<style>
  .list {
    overflow: auto;
    flex: 1;
    min-height: 0;
    padding: var(--space-1) var(--space-3) var(--space-2);
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
  }
  td {
    white-space: nowrap;
  }
  td.mono {
    font-size: var(--type-small);
  }
  .name {
    font-weight: 600;
    max-width: 240px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .tare {
    font-weight: 400;
    font-size: var(--type-small);
  }
  .todo {
    width: 99%;
    white-space: normal;
    line-height: 1.35;
    color: var(--muted);
    font-size: var(--type-small);
  }
  .todo strong {
    color: var(--ink);
    font-weight: 500;
  }
  .verdict {
    font-weight: 600;
  }
  .proven {
    color: var(--moss);
  }
  .broken,
  .off {
    color: var(--red);
  }
  .never-proven,
  .expired,
  .changed-since,
  .due-soon {
    color: var(--ochre);
  }
  .idle td {
    color: var(--muted);
    font-weight: 400;
  }
  .more {
    margin: var(--space-2) 0 0 var(--space-1);
    font-size: var(--type-small);
  }
  .search {
    width: 170px;
  }
</style>
