<!-- Plan and rules played over a recorded take, faster than real time: what would have happened, on the take's own time axis. -->
<script lang="ts">
  import { channelsOf } from '$core/condition/condition';
  import { clockText } from '$core/readings';
  import { waitedFor } from '$contract/plan';
  import type { Overview } from '$contract/overview';
  import type { Rehearsal } from '$contract/rehearsal';
  import type { TakeView } from '$contract/take';
  import { Button } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { PLOT_LEFT, PLOT_RIGHT } from '../plot/strip-plot';
  import TakeSelect from '../take/TakeSelect.svelte';
  import TakeStrips from '../take/TakeStrips.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { overview: Overview; close: () => void };
  let { overview, close }: Props = $props();
  const shell = useShell();

  const takes = $derived(overview.takes.filter((t) => t.state !== 'recording'));
  // svelte-ignore state_referenced_locally
  let takeId = $state(overview.takes.find((t) => t.state !== 'recording')?.id ?? '');
  let busy = $state(false);
  let fault = $state<FaultText | null>(null);
  let done = $state.raw<Rehearsal | null>(null);
  let view = $state.raw<TakeView | null>(null);

  async function run() {
    busy = true;
    fault = null;
    try {
      const [result, take] = await Promise.all([
        call('POST /api/rehearse', { body: { takeId, planId: overview.plan.id } }),
        call('GET /api/takes/[id]', { params: { id: takeId } }),
      ]);
      done = result;
      view = take;
    } catch (error) {
      fault = faultText(error);
    } finally {
      busy = false;
    }
  }

  /** What the plan and rules look at. */
  const looked = $derived.by(() => {
    const ids = [...waitedFor(overview.plan.plan), ...overview.rules.flatMap((r) => channelsOf(r.rule.when))];
    const found = view?.signals.filter((s) => ids.includes(s.channelId ?? '')) ?? [];
    return (found.length ? found : (view?.signals ?? [])).slice(0, 2);
  });
  const left = (s: number) => (done ? (s / done.durationS) * 100 : 0);
  const told = $derived((done?.events ?? []).filter((e) => e.kind !== 'armed' && e.kind !== 'limit'));
</script>

<section class="card rehearsal" aria-label="Rehearsal">
  <div class="head">
    <strong>Rehearse on</strong>
    <TakeSelect {takes} bind:value={takeId} label="Take to rehearse on" />
    <Button size="sm" onclick={() => void run()} disabled={busy || !takeId}
      >{busy ? 'Rehearsing…' : done ? 'Rehearse again' : 'Rehearse'}</Button
    >
    {#if done}<span class="muted"
        >{done.durationS.toFixed(0)} s in {done.tookS.toFixed(1)} s, {(done.durationS / done.tookS).toFixed(
          0,
        )} times as fast</span
      >{/if}
    <button class="dotted close" onclick={close}>back to live</button>
  </div>
  {#if fault}<FaultNote {fault} />{/if}
  {#if takes.length === 0}<p class="muted none">
      Record a take first; then plan and rules can be tried on it.
    </p>{/if}
  {#if done && view}
    <div class="both">
      <div class="strips">
        <TakeStrips {takeId} signals={looked} from={0} to={done.durationS} night={shell.night}>
          {#snippet overlay()}
            <div class="marks" style:left="{PLOT_LEFT}px" style:right="{PLOT_RIGHT}px">
              {#each done!.takes as take, k (k)}
                <div
                  class="take"
                  style:left="{left(take.fromS)}%"
                  style:width="{left(take.toS - take.fromS)}%"
                  title="{take.name}: {clockText(take.fromS)} to {clockText(take.toS)}"
                ></div>
              {/each}
              {#each told as e, k (k)}<i
                  class={e.kind}
                  style:left="{left(e.atS)}%"
                  title="{clockText(e.atS)} {e.says}"
                ></i>{/each}
            </div>
          {/snippet}
        </TakeStrips>
      </div>
      <div class="told">
        {#if done.missing.length}<p class="muted note">
            Not in this take, so left out: {done.missing.join(', ')}.
          </p>{/if}
        <table class="plain events" aria-label="What would have happened">
          <tbody>
            {#each told as e, k (k)}
              <tr
                ><td class="mono time">{clockText(e.atS)}</td><td class="muted kind">{e.kind}</td><td
                  >{e.says}</td
                ></tr
              >
            {:else}<tr
                ><td class="muted">Nothing would have happened: the plan never starts, no rule fires.</td></tr
              >{/each}
          </tbody>
        </table>
      </div>
    </div>
  {:else if !busy && takes.length}
    <p class="muted none">
      The plan is armed where the take begins, and every rule is in force. Nothing is driven, nothing is kept;
      change a sentence and rehearse again.
    </p>
  {/if}
</section>

<style>
  .rehearsal {
    display: flex;
    flex-direction: column;
    min-height: 0;
    padding: var(--space-2) var(--space-1) var(--space-1) 0;
  }
  .head {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    padding: 0 var(--space-2) var(--space-1) var(--space-3);
  }
  .close {
    margin-left: auto;
  }
  .strips {
    min-height: 0;
  }
  .none,
  .note {
    padding: var(--space-2) var(--space-3);
    margin: 0;
  }
  .marks {
    position: absolute;
    inset-block: 0;
    pointer-events: none;
  }
  .take {
    position: absolute;
    inset-block: 0;
    background: color-mix(in srgb, var(--ember) 9%, transparent);
    border-inline: 1.5px solid var(--ember);
  }
  i {
    position: absolute;
    inset-block: 0;
    border-left: 1.5px dotted var(--plum);
  }
  i.started,
  i.ended,
  i.seal {
    display: none;
  }
  .both {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 300px;
    flex: 1;
    min-height: 0;
  }
  .told {
    overflow: auto;
    padding-right: var(--space-1);
    font-size: var(--type-small);
  }
  .time {
    width: 74px;
    color: var(--muted);
    white-space: nowrap;
    vertical-align: top;
  }
  .kind {
    width: 66px;
    vertical-align: top;
  }
</style>
