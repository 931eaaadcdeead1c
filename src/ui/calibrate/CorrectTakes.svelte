<!-- Takes that were recorded with a calibration found wrong: choose those to read anew, say why. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { dayText } from '$core/readings';
  import { onMount } from 'svelte';
  import type { Channel } from '$contract/channel';
  import { Button } from 'flowbite-svelte';
  import type { AffectedTake } from '$contract/api/calibrate';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { channel: Channel };
  let { channel }: Props = $props();
  const shell = useShell();

  let takes = $state.raw<AffectedTake[] | null>(null);
  let chosen = $state<string[]>([]);
  let reason = $state('');
  let fault = $state<FaultText | null>(null);
  let outcome = $state.raw<{ takes: number; recomputed: string[]; left: string[] } | null>(null);
  let busy = $state(false);

  const load = async () => {
    try {
      takes = await call('GET /api/calibrate/takes', { query: { channel: channel.id } });
    } catch (error) {
      fault = faultText(error);
    }
  };
  onMount(() => void load());
  async function correct() {
    busy = true;
    try {
      outcome = await call('POST /api/calibrate/takes', {
        body: { channelId: channel.id, takes: chosen, reason },
      });
      fault = null;
      chosen = [];
      reason = '';
      await load();
      await shell.refresh();
    } catch (error) {
      fault = faultText(error);
    } finally {
      busy = false;
    }
  }
  async function refreshStudies() {
    try {
      await call('POST /api/studies/refresh');
      await shell.refresh();
    } catch (error) {
      fault = faultText(error);
    }
  }
  const toggle = (id: string) =>
    (chosen = chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]);
</script>

<h2>Takes recorded with this channel</h2>
{#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
{#if takes === null}<p class="muted">Looking through the takes …</p>
{:else if takes.length === 0}<p class="muted">It is in no take yet.</p>
{:else}
  <p class="muted">
    A calibration found wrong need not cost the takes: choose those to be read as the channel is read now.
    Samples are never touched, the former reading stays one click away.
  </p>
  <table class="plain">
    <tbody>
      {#each takes as t (t.id)}
        <tr>
          <td
            ><input
              type="checkbox"
              aria-label="Choose {t.name}"
              checked={chosen.includes(t.id)}
              disabled={!t.differs}
              onchange={() => toggle(t.id)}
            /></td
          >
          <td class="name"><a class="dotted" href={resolve(`/inspect/${t.id}`)}>{t.name}</a></td>
          <td class="mono day">{dayText(new Date(t.startedAt).toISOString().slice(0, 10))}</td>
          <td class="muted"
            >{t.differs ? '▲ read differently' : '✓ read as now'}{t.reason
              ? `, corrected: ${t.reason}`
              : ''}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  <div class="row">
    <input
      placeholder="Why are they read anew?"
      aria-label="Reason"
      bind:value={reason}
      maxlength="300"
      disabled={chosen.length === 0}
    />
    <Button
      size="sm"
      disabled={busy || chosen.length === 0 || reason.trim().length < 3}
      onclick={() => void correct()}
      >Correct {chosen.length || ''} take{chosen.length === 1 ? '' : 's'}</Button
    >
  </div>
  {#if outcome}
    <p class="well" role="status">
      ✓ {outcome.takes} take{outcome.takes === 1 ? '' : 's'} read anew{outcome.recomputed.length
        ? `, ${[...new Set(outcome.recomputed)].join(', ')} computed anew`
        : ''}. Studies on them are out of date:
      <button class="dotted" onclick={() => void refreshStudies()}>bring all up to date</button>.
    </p>
    {#each outcome.left as left (left)}<p class="bad">▲ Not computed anew: {left}</p>{/each}
  {/if}
{/if}

<style>
  p {
    margin: var(--space-1) 0;
  }
  .name {
    font-weight: 600;
    white-space: nowrap;
  }
  .day {
    font-size: var(--type-small);
    white-space: nowrap;
  }
  td.muted {
    font-size: var(--type-small);
  }
  .row {
    display: flex;
    gap: var(--space-2);
    margin-top: var(--space-2);
  }
  .row input {
    flex: 1;
    padding: var(--space-1) var(--space-2);
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
  }
  .well {
    color: var(--moss);
  }
  .bad {
    color: var(--ochre);
  }
</style>
