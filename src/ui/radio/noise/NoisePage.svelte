<script module lang="ts">
  const clockTime = (ms: number) => new Date(ms).toTimeString().slice(0, 5);
</script>

<!-- Noise figure and gain by the Y-factor method, guided: what is connected to what, what is measured, points as they come, the table. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { Button } from 'flowbite-svelte';
  import { z } from 'zod';
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { field, NO_NAMES, type Sentence } from '$core/sentence/sentence';
  import { quantityOf } from '$core/quantities/quantities';
  import { fixed } from '$core/readings';
  import { nameColour, traceColour } from '$contract/palette';
  import { commonOf, roleOf } from '$contract/channel';
  import {
    NOISE,
    NOISE_KNOWN,
    type NoiseResult,
    type NoiseSource,
    type NoiseView,
  } from '$contract/radio-noise';
  import type { Correction } from '$contract/radio-kept';
  import { call, faultText } from '../../api';
  import Empty from '../../kit/Empty.svelte';
  import { provideChoices } from '../../sentence/choices';
  import SentenceView from '../../sentence/SentenceView.svelte';
  import { namesOf } from '../../shell/reading';
  import { useShell } from '../../shell/shell.svelte';
  import Places from '../Places.svelte';
  import { watchReceivers } from '../receivers';
  import Chain from './Chain.svelte';
  import { extreme, NoiseDesk, withExpanded } from './noise-desk.svelte';
  import NoisePicture from './NoisePicture.svelte';
  import Sources from './Sources.svelte';
  import Steps from './Steps.svelte';

  type Props = {
    views: NoiseView[];
    results: NoiseResult[];
    sources: NoiseSource[];
    corrections: Correction[];
  };
  let props: Props = $props();
  const shell = useShell();
  const desk = new NoiseDesk(shell);
  $effect.pre(() => {
    desk.all = props.views;
    desk.results = props.results;
    desk.sources = props.sources;
    desk.corrections = props.corrections;
  });
  $effect(() => untrack(() => shell.feed.watchBench('noise', () => void desk.look())));
  const receivers = watchReceivers(shell);
  $effect(() => receivers(() => void desk.look()));

  const view = $derived(desk.view);
  const channels = $derived(shell.overview.channels);
  const names = $derived(namesOf(channels));
  provideChoices((key) =>
    channels
      .filter((c) =>
        key === 'drive'
          ? roleOf(c) === 'driven' && commonOf(c).unit === 'yes/no'
          : quantityOf(commonOf(c).unit) === 'temperature' && roleOf(c) !== 'driven',
      )
      .map((c) => ({ id: c.id, name: c.name, unit: commonOf(c).unit })),
  );
  const options = $derived({
    'noise sources': desk.sources.map((s) => s.serial),
    corrections: desk.corrections.map((c) => c.name),
  });
  const change = (key: string, value: unknown) => desk.change({ [key]: value });

  const naming = z.strictObject({
    device: field(z.string().trim().max(60), {
      label: 'Device',
      editor: 'text',
      none: 'a device without a name',
    }),
  });
  const NAMING: Sentence<typeof naming> = { schema: naming, template: () => '{device}' };

  let sourcesOpen = $state(false);
  /** A report of this device, or of the one measured last where it has no name. */
  async function report() {
    try {
      const settings = {
        noise: { device: desk.results.some((r) => r.device === view?.device) ? view!.device : '' },
      };
      const made = await call('POST /api/reports', { body: { template: 'noise figure', settings } });
      await goto(resolve(`/report/${made.id}`));
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const others = $derived(desk.results.filter((r) => r.id !== view?.kept));
  /** The last three stand behind until somebody chooses otherwise. */
  const behind = $derived(desk.behind ?? others.slice(-3).map((r) => r.id));
  const courses = (what: 'figure' | 'gain') => {
    if (!view) return [];
    const of = (points: NoiseView['points'], behind: boolean, name: string) => ({
      hz: points.map((p) => p.hz),
      values: points.map((p) => (what === 'figure' ? p.figureDb : p.gainDb)),
      expanded: points.map((p) => (what === 'figure' ? p.figureExpanded : p.gainExpanded)),
      behind,
      name,
    });
    return [
      ...others.filter((r) => behind.includes(r.id)).map((r) => of(r.points, true, r.device)),
      of(view.points, false, view.device),
    ];
  };
  const pins = $derived.by(() => {
    if (!view || !desk.measured) return [];
    return (['lowest', 'highest'] as const).map((end) => {
      const p = view.points[extreme(view.points, end)];
      return { hz: p.hz, value: p.figureDb!, name: end };
    });
  });
  /** What the step that comes next, or the one that runs, is measured with. */
  const through = $derived(desk.step > 1);
  const on = $derived(
    view?.running
      ? view.running.state.endsWith('on')
      : desk.step === 3 || (desk.step === 1 && view?.done['own on'] === 0),
  );
  const roomText = $derived(view ? `${fixed(view.settings.room - 273.15, 0)} °C` : '');
  const left = $derived(view?.points.filter((p) => p.findings.some((f) => f.leaves)).length ?? 0);

  function keys(e: KeyboardEvent) {
    if (
      (e.target as HTMLElement).closest('input, textarea, select, [role=dialog]') ||
      e.ctrlKey ||
      e.metaKey ||
      e.altKey
    )
      return;
    const acts: Record<string, () => void> = {
      ArrowLeft: () => desk.stepBy(-1),
      ArrowRight: () => desk.stepBy(1),
      l: () => desk.toEnd('lowest'),
      p: () => desk.toEnd('highest'),
      c: () => void desk.copy(),
    };
    const act = acts[e.key];
    if (!act || (e.target as HTMLElement).closest('[role=slider]')) return;
    e.preventDefault();
    act();
  }
</script>

<svelte:window onkeydown={keys} />
<div class="page">
  <div class="page-head">
    {#if view}
      <h1>
        Noise figure of <SentenceView
          sentence={NAMING}
          value={{ device: view.device }}
          names={NO_NAMES}
          change={(_, v) => desk.device(String(v))}
        />
      </h1>
      {#if desk.all.length > 1}
        <select class="plain" aria-label="Receiver" bind:value={desk.unit}>
          {#each desk.all as v (v.unit)}<option value={v.unit}>{v.name}</option>{/each}
        </select>
      {/if}
      <span class="aside"
        >by the Y-factor{view.own ? ` · own noise taken ${clockTime(view.own.atMs)}` : ''}</span
      >
    {:else}<h1>Noise figure</h1>{/if}
    <div class="actions">
      <Places />
      <Button size="sm" color="alternative" onclick={() => (sourcesOpen = true)}>Sources</Button>
      <Button size="sm" color="alternative" disabled={!desk.measured} onclick={desk.save}>CSV</Button>
      <Button size="sm" disabled={desk.results.length === 0} onclick={() => void report()}
        >Put in report</Button
      >
    </div>
  </div>
  {#if !view}
    <Empty says="No receiver is there yet: add one to the rig, and noise figures are measured with it.">
      <Button href={resolve('/rig')}>Open the rig</Button>
    </Empty>
  {:else}
    <div class="says">
      <SentenceView sentence={NOISE} value={view.settings} {names} {options} size="large" {change} />
      <SentenceView sentence={NOISE_KNOWN} value={view.settings} {names} size="small" {change} />
    </div>
    {#if view.says}<p class="fault" role="alert">{view.says}</p>{/if}
    <div class="columns">
      <section class="card" aria-label="Connections">
        <header>
          <h2>Connect it like this</h2>
          {#if view.standIn}
            <button type="button" class="dotted small" onclick={() => void desk.connect(through, on)}
              >the stand-in is connected so</button
            >
          {:else}<span class="muted small">what is plum changes in this step</span>{/if}
        </header>
        <Chain
          {view}
          source={view.settings.source ?? 'none yet'}
          device={view.device || 'without a name'}
          kelvin={roomText}
          {through}
          {on}
        />
      </section>
      <section class="card own" aria-label="The receiver’s own noise">
        <header>
          <h2>The receiver’s own noise</h2>
          {#if view.own}<b class:moss={!view.stale.length} class:ochre={view.stale.length > 0}
              >{view.stale.length ? '▲ take it again' : '✓ holds'}</b
            >{/if}
        </header>
        <p>
          {#if !view.own}
            Measured once, with the source straight in the receiver; it then holds for many devices.
          {:else if view.stale.length}
            {view.stale.join(', ')} changed since {clockTime(view.own.atMs)}. What stood on it stays as it was
            kept.
          {:else}
            {fixed(view.own.middle.figureDb, 1)} dB at {fixed(view.own.middle.hz / 1e6, 0)} MHz, taken {clockTime(
              view.own.atMs,
            )}. It holds until points, widths, gain or source change, or the room by 3 K.
          {/if}
          {#if view.changedForNow}
            <b class="ochre">The source’s table is changed for this time only.</b>
            <button type="button" class="dotted small" onclick={() => void desk.forNow(null)}
              >as it is kept</button
            >
          {/if}
        </p>
      </section>
      <section class="card pictures" aria-label="Noise figure and gain">
        <header>
          <h2 style:color={nameColour(0, shell.night)}>Noise figure</h2>
          <span class="muted small">dB, band: ± 95 %</span>
          {#if left}<span class="ochre small">{left} {left === 1 ? 'point' : 'points'} left out</span>{/if}
          {#if desk.span}<button type="button" class="dotted small" onclick={() => (desk.span = null)}
              >the whole span</button
            >{/if}
          <span class="read mono">
            {#if desk.point}{fixed(desk.point.hz / 1e6, 3)} MHz · {withExpanded(
                desk.point.figureDb,
                desk.point.figureExpanded,
              )}{/if}
          </span>
        </header>
        <NoisePicture
          label="Noise figure, MHz"
          courses={courses('figure')}
          fromHz={desk.ends.from}
          toHz={desk.ends.to}
          wanted={view.settings.wanted === null
            ? null
            : { db: view.settings.wanted, says: `wanted: below ${fixed(view.settings.wanted, 1)} dB` }}
          {pins}
          atHz={desk.measured ? (desk.point?.hz ?? null) : null}
          colour={traceColour(0, shell.night)}
          night={shell.night}
          point={desk.pointTo}
          closer={(from, to) => (desk.span = { from, to })}
          whole={() => (desk.span = null)}
          step={desk.stepBy}
        />
        <header>
          <h2 style:color={nameColour(1, shell.night)}>Gain</h2>
          <span class="muted small">dB</span>
          <span class="read mono">
            {#if desk.point}{withExpanded(desk.point.gainDb, desk.point.gainExpanded)}{/if}
          </span>
        </header>
        <NoisePicture
          label="Gain, MHz"
          courses={courses('gain')}
          fromHz={desk.ends.from}
          toHz={desk.ends.to}
          atHz={desk.measured ? (desk.point?.hz ?? null) : null}
          colour={traceColour(1, shell.night)}
          night={shell.night}
          point={desk.pointTo}
          closer={(from, to) => (desk.span = { from, to })}
          whole={() => (desk.span = null)}
          step={desk.stepBy}
        />
      </section>
      <Steps {desk} {view} {others} {behind} />
    </div>
  {/if}
</div>
<Sources
  bind:open={sourcesOpen}
  sources={desk.sources}
  changed={(next) => {
    desk.sources = next;
    void desk.look();
  }}
  forNow={view?.settings.source ? desk.forNow.bind(desk) : null}
/>

<style>
  h1 {
    white-space: nowrap;
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
  }
  .says {
    display: grid;
    gap: var(--space-1);
    line-height: 1.75;
  }
  .fault {
    color: var(--red);
  }
  .small {
    font-size: var(--type-small);
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 330px;
    grid-template-rows: auto minmax(0, 1fr);
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .card {
    padding: var(--space-3) var(--space-4);
    min-width: 0;
  }
  header {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
  }
  header > :last-child:not(h2) {
    margin-left: auto;
  }
  .own p {
    font-size: var(--type-small);
    margin-top: var(--space-2);
  }
  .pictures {
    display: flex;
    flex-direction: column;
    min-height: 0;
    padding-inline: var(--space-1) 0;
  }
  .pictures header {
    padding-inline: var(--space-3);
  }
  .moss {
    color: var(--moss);
    font-size: var(--type-small);
  }
  .ochre {
    color: var(--ochre);
    font-size: var(--type-small);
  }
</style>
