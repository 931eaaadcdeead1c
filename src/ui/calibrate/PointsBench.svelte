<!-- Calibration by points: set the reference, measure until steady, look at the points against the line, accept. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { onMount } from 'svelte';
  import { fixed, readingText } from '$core/readings';
  import { NO_NAMES } from '$core/sentence/sentence';
  import {
    channelKind,
    commonOf,
    type Calibration,
    type CalibrationPoint,
    type Channel,
  } from '$contract/channel';
  import {
    fitAxis,
    fitPoints,
    pointsSentence,
    usualRun,
    type PointsRun,
    type Steadiness,
  } from '$contract/calibration';
  import { Button, Select } from 'flowbite-svelte';
  import { tinykeys } from 'tinykeys';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import HandPanel from '../rig/HandPanel.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { liveText } from '../shell/reading';
  import { useShell } from '../shell/shell.svelte';
  import PointsPlot from './PointsPlot.svelte';
  import ToleranceStrip from './ToleranceStrip.svelte';

  type Props = {
    channel: Channel;
    channels: Channel[];
    history: Calibration[];
    present: { slope: number; offset: number };
    linear: boolean;
  };
  let { channel, channels, history, present, linear }: Props = $props();
  const shell = useShell();
  const { feed } = shell;

  // The bench is made anew for each channel, so its first values are taken once.
  // svelte-ignore state_referenced_locally
  let run = $state<PointsRun>(usualRun(channel));
  let points = $state<(CalibrationPoint | null)[]>([]);
  let measuring = $state<number | null>(null);
  let now = $state.raw<Steadiness | null>(null);
  let fault = $state<FaultText | null>(null);
  let accepted = $state(false);

  const unit = $derived(commonOf(channel).unit);
  const axisUnit = $derived(linear ? channelKind(channel.kind).rawUnit : unit);
  const targets = $derived(run.targets.map(Number));
  const next = $derived(targets.findIndex((_, i) => !points[i]));
  const done = $derived(targets.flatMap((_, i) => (points[i] ? [points[i]] : [])));
  const fit = $derived.by(() => {
    if (done.length < 2) return null;
    try {
      return { line: fitPoints(channel, done), fault: null };
    } catch (error) {
      return { line: null, fault: faultText(error) };
    }
  });
  const residualOf = (i: number) =>
    fit?.line && points[i] ? fit.line.residuals[done.indexOf(points[i])] : NaN;
  const worst = $derived(
    fit?.line ? targets.findIndex((_, i) => Math.abs(residualOf(i)) === fit.line.largestResidual) : -1,
  );
  const decimals = $derived(Math.max(0, Math.ceil(-Math.log10(run.good)) + 1));
  const standIn = $derived(
    feed.status.units.find(
      (u) => u.description.serial === channel.wire?.unit && u.description.controls.length,
    )?.description,
  );
  const hand = $derived(
    channel.wire?.terminal === 'A4/1' ? ['wireMm'] : channel.kind === 'thermocouple' ? ['heat'] : [],
  );

  onMount(() => {
    feed.want([channel.id]);
    const timer = setInterval(() => void look(), 200);
    const keys = tinykeys(window, {
      Space: (event) => {
        if ((event.target as HTMLElement).closest('input, button, select, [role=dialog]')) return;
        event.preventDefault();
        begin(next);
      },
    });
    return () => {
      clearInterval(timer);
      keys();
    };
  });

  async function look() {
    if (document.hidden) return;
    try {
      now = await call<Steadiness>(
        'GET',
        `/api/channels/${channel.id}/calibration?tolerance=${run.tolerance}&hold=${run.hold}`,
      );
      if (measuring === null) return;
      fault = null;
      if (!now.steady || performance.now() - began < run.hold * 1000) return;
      points[measuring] = {
        target: targets[measuring],
        raw: now.raw,
        noise: now.noise,
        samples: now.samples,
      };
      measuring = null;
    } catch (error) {
      now = null;
      if (measuring !== null) fault = faultText(error);
    }
  }
  let began = 0;
  function begin(i: number) {
    if (i < 0 || i >= targets.length) return;
    accepted = false;
    points[i] = null;
    measuring = i;
    began = performance.now();
  }
  const change = async (key: string, value: unknown) => {
    if (key === 'targets')
      points = (value as string[]).map((t) => points.find((p) => p?.target === Number(t)) ?? null);
    run = { ...run, [key]: value };
  };
  async function accept() {
    try {
      await call('POST', `/api/channels/${channel.id}/calibration`, { points: done });
      fault = null;
      accepted = true;
      await shell.refresh();
    } catch (error) {
      fault = faultText(error);
    }
  }
</script>

<div class="page">
  <div class="page-head">
    <h1>{channel.name}</h1>
    <span class="aside"
      >calibrate by points · {channel.wire?.terminal.replace('/', ' terminal ')} · {history.length
        ? `last done ${new Date(history[0].at).toLocaleDateString('en-GB', { dateStyle: 'medium' })}`
        : 'never done before'}</span
    >
    <div class="actions">
      <Select
        size="sm"
        class="w-44"
        aria-label="Channel"
        value={channel.id}
        items={channels.map((c) => ({ value: c.id, name: c.name }))}
        onchange={(e) => void goto(resolve(`/calibrate/${(e.currentTarget as HTMLSelectElement).value}`))}
      />
      <Button size="sm" disabled={!fit?.line || measuring !== null || accepted} onclick={() => void accept()}
        >Accept</Button
      >
    </div>
  </div>
  <SentenceView sentence={pointsSentence} value={run} names={NO_NAMES} {change} size="large" />
  {#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
  <div class="columns">
    <section class="card points">
      <h2>Points</h2>
      <table class="plain">
        <thead
          ><tr><th class="num">{unit}</th><th class="num">{axisUnit}</th><th class="num">off by</th></tr
          ></thead
        >
        <tbody>
          {#each targets as target, i (i)}
            {@const p = points[i]}
            {@const off = residualOf(i)}
            <tr class:here={i === measuring}>
              <td class="num">{target}</td>
              <td class="num"
                >{p ? readingText(fitAxis(channel, p.raw), { digits: 6 }) : i === measuring ? '…' : ''}</td
              >
              <td class="num">
                {#if p}
                  <span class:bad={Math.abs(off) > run.good}
                    >{Number.isNaN(off) ? '' : `${off > 0 ? '+' : ''}${fixed(off, decimals)}`}</span
                  >
                  <button
                    class="dotted again"
                    onclick={() => begin(i)}
                    aria-label="Measure {target} {unit} again">again</button
                  >
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
      {#if measuring !== null}
        <Button size="sm" color="alternative" class="mt-2 w-full" onclick={() => (measuring = null)}
          >Stop measuring {targets[measuring]} {unit}</Button
        >
        <p class="muted" role="status">
          Hold it at <strong>{targets[measuring]} {unit}</strong>: {now?.says ?? 'no reading'}.
        </p>
      {:else if next >= 0}
        <Button size="sm" class="mt-2 w-full" onclick={() => begin(next)}
          >Measure {targets[next]} {unit} <kbd>Space</kbd></Button
        >
        <p class="muted">Set the reference to <strong>{targets[next]} {unit}</strong>, then hold it still.</p>
      {:else if accepted}
        <p class="well">✓ Accepted: in force from now on. Undo takes it back.</p>
      {:else}
        <p class="muted">All points are measured. Measure one again, or accept.</p>
      {/if}
      {#if standIn && hand.length}
        <div class="hand">
          <h2>Hand at the rig</h2>
          <HandPanel unit={standIn} only={hand} />
        </div>
      {/if}
    </section>
    <div class="plots">
      <section class="card">
        <h2>Points and line</h2>
        <PointsPlot
          x={done.map((p) => fitAxis(channel, p.raw))}
          y={done.map((p) => p.target)}
          line={fit?.line ?? null}
          xUnit={axisUnit}
          yUnit={unit}
          night={shell.night}
        />
      </section>
      <section class="card">
        <h2>Distance from the line, {unit}</h2>
        <PointsPlot
          x={done.map((p) => p.target)}
          y={fit?.line ? Array.from(fit.line.residuals) : []}
          band={run.good}
          line={null}
          xUnit={unit}
          yUnit={unit}
          night={shell.night}
        />
      </section>
      <section class="card">
        <div class="row">
          <h2>Now, against the tolerance</h2>
          <span class="muted mono"
            >{liveText(channel, feed.value(channel.id))} {unit} · {now?.says ?? 'no reading'}</span
          >
        </div>
        <ToleranceStrip {channel} {feed} tolerance={run.tolerance} />
      </section>
    </div>
    <div class="side">
      <section class="card">
        <h2>Result</h2>
        {#if fit?.line}
          {@const l = fit.line}
          <dl>
            <dt>Slope</dt>
            <dd class="mono" data-testid="slope">{readingText(l.slope, { digits: 5 })}</dd>
            <dd class="muted">{unit}/{axisUnit}</dd>
            <dt>Offset</dt>
            <dd class="mono" data-testid="offset">{readingText(l.offset, { digits: 4 })}</dd>
            <dd class="muted">{unit}</dd>
            <dt>Largest distance</dt>
            <dd class="mono" class:bad={l.largestResidual > run.good}>
              {l.largestResidual > run.good ? '▲ ' : ''}{readingText(l.largestResidual, { digits: 2 })}
            </dd>
            <dd class="muted">{unit}</dd>
            {#if done.length > 2}
              <dt>Spread about the line</dt>
              <dd class="mono">{readingText(l.residualStd, { digits: 2 })}</dd>
              <dd class="muted">{unit}</dd>
              <dt>Std. error of slope</dt>
              <dd class="mono">{readingText(l.standardErrorSlope, { digits: 2 })}</dd>
              <dd class="muted">{unit}/{axisUnit}</dd>
            {/if}
          </dl>
          {#if l.largestResidual > run.good}<p class="bad">
              <strong
                >▲ {targets[worst]}
                {unit} is {readingText(l.largestResidual, { digits: 2 })}
                {unit} off the line.</strong
              > Measure it again, or accept knowing it.
            </p>{/if}
        {:else if fit?.fault}<FaultNote fault={fit.fault} />
        {:else}<p class="muted">Two points make a line.</p>{/if}
      </section>
      {#if linear}
        <section class="card">
          <h2>In force now</h2>
          <dl>
            <dt>Slope</dt>
            <dd class="mono" data-testid="present-slope">{readingText(present.slope, { digits: 5 })}</dd>
            <dd class="muted">{unit}/{axisUnit}</dd>
            <dt>Offset</dt>
            <dd class="mono">{readingText(present.offset, { digits: 4 })}</dd>
            <dd class="muted">{unit}</dd>
          </dl>
        </section>
      {/if}
      <section class="card">
        <h2>Done before</h2>
        {#each history as h (h.id)}
          <p class="past">
            <span class="mono">{readingText(h.slope, { digits: 5 })}</span>
            <span class="muted"
              >{h.unit}/{h.rawUnit}, {new Date(h.at).toLocaleString('en-GB', {
                dateStyle: 'medium',
                timeStyle: 'short',
              })}, by {h.by}, {h.points.length} points</span
            >
          </p>
        {:else}<p class="muted">Nothing yet: the values of the sheet are in force.</p>{/each}
      </section>
    </div>
  </div>
</div>

<style>
  .columns {
    display: grid;
    grid-template-columns: 290px minmax(0, 1fr) 284px;
    gap: 14px;
    flex: 1;
    min-height: 0;
  }
  section {
    padding: 12px 14px;
  }
  .points {
    overflow: auto;
  }
  .points p {
    margin: 8px 0 0;
  }
  .plots {
    display: grid;
    grid-template-rows: minmax(0, 1.2fr) minmax(0, 1fr) minmax(0, 0.85fr);
    gap: 12px;
    min-height: 0;
  }
  .plots section {
    display: flex;
    flex-direction: column;
    min-height: 0;
    padding-bottom: 6px;
  }
  .side {
    display: flex;
    flex-direction: column;
    gap: 12px;
    overflow: auto;
  }
  .row {
    display: flex;
    justify-content: space-between;
    gap: 10px;
    white-space: nowrap;
    overflow: hidden;
  }
  .row .muted {
    font-size: 12px;
  }
  tr.here td {
    background: var(--tint);
  }
  .bad {
    color: var(--ochre);
  }
  .well {
    color: var(--moss);
  }
  .again {
    font-size: 12px;
    font-family: var(--font-sans);
    margin-left: 6px;
  }
  dl {
    display: grid;
    grid-template-columns: 1fr auto 62px;
    gap: 0;
  }
  dt,
  dd {
    padding: 5px 0 5px 8px;
    border-bottom: 1px solid var(--hair);
    margin: 0;
  }
  dt {
    padding-left: 0;
  }
  dd.mono {
    font-size: 15px;
    text-align: right;
  }
  dd.muted {
    font-size: 12px;
    align-content: center;
  }
  .past {
    margin: 4px 0 0;
    font-size: 12.5px;
  }
  .hand {
    margin-top: 16px;
    border-top: 1px solid var(--line);
    padding-top: 10px;
  }
  .hand h2 {
    margin-bottom: 6px;
  }
</style>
