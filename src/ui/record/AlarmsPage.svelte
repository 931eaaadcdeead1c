<!-- All warnings and alarms with time in and out; acknowledged, shelved with a reason. -->
<script lang="ts">
  import { invalidate } from '$app/navigation';
  import type { Alarm } from '$contract/alarm';
  import type { Overview } from '$contract/overview';
  import { Button } from 'flowbite-svelte';
  import type { BodyIn } from '$contract/api';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import { useShell } from '../shell/shell.svelte';
  import RecordTabs from './RecordTabs.svelte';

  type Props = { overview: Overview; alarms: Alarm[] };
  let { overview, alarms }: Props = $props();
  const shell = useShell();
  const { feed } = shell;

  let shelving = $state<Alarm | null>(null);
  let minutes = $state(30);
  let why = $state('');

  // The list follows what all browsers are told.
  let told = '';
  $effect(() => {
    const now = JSON.stringify([feed.alarms.open, feed.alarms.shelved]);
    if (told && told !== now) void invalidate('farrier:page');
    told = now;
  });
  const shelfOf = (source: string) => feed.alarms.shelved.find((s) => s.source === source);
  const waiting = $derived(alarms.filter((a) => a.takenAt === null).length);
  async function act(body: BodyIn<'POST /api/alarms'>) {
    try {
      await call('POST /api/alarms', { body });
      shelving = null;
      why = '';
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const when = (ms: number | null) =>
    ms === null
      ? ''
      : new Date(ms).toLocaleString('en-GB', {
          day: '2-digit',
          month: '2-digit',
          hour: '2-digit',
          minute: '2-digit',
          second: '2-digit',
        });
</script>

<div class="page">
  <RecordTabs boards={overview.boards} />
  <div class="page-head">
    <h1>Alarms</h1>
    <span class="aside">{waiting ? `${waiting} not acknowledged` : 'all acknowledged'}</span>
    <div class="actions">
      {#if feed.alarms.open.some((a) => a.level === 'alarm' && a.takenAt === null) && !feed.alarms.quiet}
        <Button size="sm" color="alternative" onclick={() => void act({ do: 'hush' })}
          >Silence <kbd>Q</kbd></Button
        >
      {/if}
      {#if waiting}<Button size="sm" onclick={() => void act({ do: 'take', id: null })}
          >Acknowledge all</Button
        >{/if}
    </div>
  </div>
  {#if alarms.length === 0}
    <Empty
      says="No channel has passed a limit yet. Limits are set with the channels; rules can raise alarms, too."
    />
  {:else}
    <div class="card list">
      <table class="plain" aria-label="Alarms">
        <thead><tr><th></th><th>What</th><th>Came</th><th>Over</th><th>Acknowledged</th><th></th></tr></thead>
        <tbody>
          {#each alarms as a (a.id)}
            {@const shelf = shelfOf(a.source)}
            <tr class:waits={a.takenAt === null}>
              <td class="sign {a.level}" title={a.level}>{a.level === 'alarm' ? '■' : '▲'}</td>
              <td
                >{a.says}{#if shelf && a.outAt === null}<span class="muted">
                    · shelved until {when(shelf.until)}: {shelf.why}</span
                  >{/if}</td
              >
              <td class="mono">{when(a.at)}</td>
              <td class="mono"
                >{a.outAt ? when(a.outAt) : ''}{#if !a.outAt}<span class="still">still</span>{/if}</td
              >
              <td
                >{#if a.takenAt}<span class="mono">{when(a.takenAt)}</span>
                  <span class="muted">{a.takenBy}</span>
                {:else}<button class="dotted" onclick={() => void act({ do: 'take', id: a.id })}
                    >acknowledge</button
                  >{/if}</td
              >
              <td class="acts"
                >{#if shelf}<button
                    class="dotted"
                    onclick={() => void act({ do: 'unshelve', source: a.source })}>take off the shelf</button
                  >
                {:else if a.outAt === null || a.takenAt === null}<button
                    class="dotted"
                    onclick={() => (shelving = a)}>shelve</button
                  >{/if}</td
              >
            </tr>
            {#if shelving?.id === a.id}
              <tr
                ><td></td><td colspan="5"
                  ><form
                    onsubmit={(e) => {
                      e.preventDefault();
                      void act({ do: 'shelve', source: a.source, minutes, why });
                    }}
                  >
                    Put it aside for <input
                      type="number"
                      min="1"
                      max="1440"
                      bind:value={minutes}
                      aria-label="Minutes"
                    />
                    min, because
                    <input
                      class="why"
                      bind:value={why}
                      aria-label="Reason"
                      placeholder="the reason stands in the logbook"
                    />
                    <Button size="xs" type="submit" disabled={!why.trim()}>Shelve</Button>
                    <button type="button" class="dotted" onclick={() => (shelving = null)}>not now</button>
                  </form></td
                ></tr
              >
            {/if}
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
</div>

<style>
  .list {
    overflow: auto;
    flex: 1;
    min-height: 0;
    padding: var(--space-1) var(--space-4) var(--space-3);
  }
  th {
    text-align: left;
    font-size: var(--type-small);
    color: var(--muted);
  }
  .sign {
    width: 24px;
  }
  .sign.alarm {
    color: var(--red);
  }
  .sign.warning {
    color: var(--ochre);
  }
  .waits {
    font-weight: 600;
  }
  .mono {
    font-size: var(--type-small);
    white-space: nowrap;
    font-weight: 400;
  }
  .still {
    color: var(--red);
    font-family: var(--font-sans);
  }
  .acts {
    text-align: right;
    white-space: nowrap;
  }
  form {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    font-weight: 400;
  }
  input {
    width: 74px;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-2);
    font-size: var(--type-body);
  }
  .why {
    width: 280px;
  }
</style>
