<!-- What a recorder will do, on a line of time: waiting, settling, recording, and what comes then. -->
<script lang="ts">
  import {
    batteryS,
    durationS,
    phasesOf,
    type RecorderModel,
    type RecorderSetup,
  } from '$core/field/recorder/plan';
  import { dayText } from '$core/readings';
  import { spanText } from '$contract/field';

  type Props = { setup: RecorderSetup; model: RecorderModel; nowMs: number };
  let { setup, model, nowMs }: Props = $props();

  const HOUR = 3_600_000;
  /** Nobody knows when a button is pushed: about a day from now. */
  const starts = $derived(setup.start === 'at a time' ? (setup.startMs ?? nowMs) : setup.start === 'by its button' ? nowMs + 24 * HOUR : nowMs); // prettier-ignore
  const phases = $derived(phasesOf(setup, nowMs, starts));
  const SAYS = {
    waits: 'waits',
    settles: 'settles',
    records: 'records',
    'goes round': 'goes round',
    stopped: 'stopped',
  };
  /** Shares of the width, so that each can be read: the recording has most of it. */
  const WIDTHS = { waits: 12, settles: 12, records: 60, 'goes round': 12, stopped: 12 };
  const placed = $derived.by(() => {
    const all = phases.reduce((sum, p) => sum + WIDTHS[p.what], 0);
    let left = 0;
    return phases.map((p) => {
      const width = (WIDTHS[p.what] / all) * 100;
      const at = { ...p, left, width };
      left += width;
      return at;
    });
  });
  const stamp = (ms: number) => `${dayText(new Date(ms).toISOString().slice(0, 10)).replace(/ \d{4}$/, '')} ${new Date(ms).toISOString().slice(11, 16)}`; // prettier-ignore
  const room = $derived(Math.floor(model.memory / model.measures.length));
  const minutes = (s: number) => spanText(s / 60);
  /** What lasts long is said in months. */
  const long = (s: number) => (s > 90 * 86_400 ? `${Math.round(s / (30.44 * 86_400))} months` : minutes(s));
  const under = (what: (typeof phases)[number]['what']) =>
    what === 'waits'
      ? setup.start === 'at a time' ? 'for its time' : 'for its button'
      : what === 'settles'
        ? `${minutes(setup.settleS)}, no alarm`
        : what === 'records'
          ? `${setup.readings} readings of ${room}, limits count`
          : ''; // prettier-ignore
  const recording = $derived(placed.filter((p) => p.what === 'settles' || p.what === 'records'));
</script>

<section class="card pad" data-testid="plan">
  <header>
    <h2>What it will do</h2>
    <span class="muted"
      >{room} readings fit: {minutes(room * setup.intervalS)} at {minutes(setup.intervalS)} · battery for {long(
        batteryS(model, setup),
      )}
      at this rate</span
    >
  </header>
  <div class="line">
    {#each placed as p, k (k)}
      {#if (p.what !== 'records' || setup.settleS === 0) && k > 0}<span
          class="when mono"
          style:left="{p.left}%"
          >{setup.start === 'by its button' && k === 1 ? 'button, about ' : ''}{stamp(p.fromMs)}</span
        >{/if}
      <div class="phase {p.what.replace(' ', '-')}" style:left="{p.left}%" style:width="{p.width}%">
        <strong>{SAYS[p.what]}{p.what === 'records' ? ` every ${minutes(setup.intervalS)}` : ''}</strong>
        <span class="muted">{under(p.what)}</span>
      </div>
    {/each}
    {#if recording.length}
      {@const [first, last] = [recording[0], recording[recording.length - 1]]}
      <div class="measure" style:left="{first.left}%" style:width="{last.left + last.width - first.left}%">
        <span class="mono">{minutes(durationS(setup))}</span>
      </div>
    {/if}
  </div>
  {#if setup.measuresWaiting}<p class="muted">
      It already measures while it waits: kept apart, shown grey.
    </p>{/if}
</section>

<style>
  .pad {
    padding: var(--space-3);
  }
  header {
    display: flex;
    justify-content: space-between;
    gap: var(--space-4);
  }
  .line {
    position: relative;
    height: 7rem;
    margin-top: var(--space-2);
  }
  .when {
    position: absolute;
    top: 0;
    font-size: var(--type-fine);
    color: var(--muted);
    white-space: nowrap;
    padding-left: var(--space-1);
    border-left: 2px solid var(--ink);
    height: 5rem;
  }
  .phase {
    position: absolute;
    top: 1.3rem;
    height: 3.5rem;
    padding: 0 var(--space-2);
    line-height: 1.35;
    overflow: hidden;
    white-space: nowrap;
    display: grid;
    align-content: center;
  }
  .phase span {
    font-size: var(--type-small);
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .waits,
  .stopped {
    background: var(--stone);
  }
  .settles {
    background: var(--tint);
  }
  .records {
    background: var(--moss-tint);
  }
  .goes-round {
    border: 1px dashed var(--line);
  }
  .measure {
    position: absolute;
    top: 5.6rem;
    height: 0.8rem;
    border-left: 1px solid var(--plum);
    border-right: 1px solid var(--plum);
    text-align: center;
  }
  .measure::before {
    content: '';
    position: absolute;
    left: 0;
    right: 0;
    top: 50%;
    border-top: 1px solid var(--plum);
  }
  .measure span {
    position: relative;
    background: var(--card);
    color: var(--plum);
    padding: 0 var(--space-2);
    font-size: var(--type-small);
    top: -0.25rem;
  }
</style>
