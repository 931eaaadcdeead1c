<!-- One modal analysis: a chain of sentences, the stabilization diagram, the shape in motion, the modes, and whether they can be believed. -->
<script lang="ts">
  import { onDestroy, untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { Button } from 'flowbite-svelte';
  import type { PlaceOfPole } from '$core/modal/stability';
  import { isDriven } from '$core/modal/driving';
  import { motionOf } from '$core/wireframe/motion';
  import { EMPTY_FRAME, type Wireframe } from '$core/wireframe/wireframe';
  import { CORRELATE_SENTENCE, FIT_SENTENCE, type AnalysisView, type PickedMode } from '$contract/modal';
  import { traceColour } from '$contract/palette';
  import { call } from '../api';
  import type { NamedFrame } from '$contract/wireframe';
  import FaultNote from '../kit/FaultNote.svelte';
  import FloatBox from '../kit/FloatBox.svelte';
  import Late from '../kit/Late.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { provideChoices } from '../sentence/choices';
  import { useShell } from '../shell/shell.svelte';
  import { Analysis, LineMaker } from './analysis.svelte';
  import Believe from './Believe.svelte';
  import Forces from './Forces.svelte';
  import Diagram from './Diagram.svelte';
  import ModalMenu from './ModalMenu.svelte';
  import ModeTable from './ModeTable.svelte';
  import Pairs from './Pairs.svelte';
  import References from './References.svelte';
  import ShapeCard from './ShapeCard.svelte';

  type Props = {
    opened: AnalysisView;
    frames: { frame: NamedFrame }[];
    signals: { id: string; name: string; unit: string }[];
    forces: { id: string; name: string; unit: string }[];
    takes: { id: string; name: string }[];
  };
  let { opened, frames, signals, forces, takes }: Props = $props();
  const shell = useShell();
  const maker = new LineMaker();
  onDestroy(() => maker.close());
  const analysis = new Analysis(
    untrack(() => opened),
    shell,
    maker,
  );
  analysis.follow();
  // Others change it, too.
  $effect(() => {
    const fresh = opened;
    untrack(() => {
      if (!analysis.running) analysis.view = fresh;
    });
  });
  const { set, view } = $derived(analysis);
  const driven = $derived(isDriven(set.correlate.method));
  provideChoices((field) =>
    field !== 'references'
      ? signals
      : driven
        ? forces
        : set.correlate.responses.length
          ? signals.filter((s) => set.correlate.responses.includes(s.id))
          : signals,
  );
  const names = $derived({ channel: (id: string) => [...signals, ...forces].find((s) => s.id === id) });
  /** A hit counts that did not, or the other way round. */
  function turn(key: string) {
    const { turned } = set.correlate;
    const next = turned.includes(key) ? turned.filter((k) => k !== key) : [...turned, key];
    void analysis.say(() => analysis.change({ correlate: { turned: next } }));
  }

  const rate = $derived(set.facts && set.facts.lags === set.correlate.lags ? set.facts.rateHz : 0);
  const correlateValue = $derived({
    ...set.correlate,
    resolution: rate ? Number((rate / set.correlate.lags).toPrecision(5)) : 0.25,
    seconds: rate ? set.correlate.lags / rate : 0,
  });
  const fitValue = $derived(set.fit);

  const fit = $derived(analysis.fit && analysis.fit.of === set.polesId ? analysis.fit.result : null);
  const made = $derived(analysis.lines?.made ?? null);
  const orders = $derived(fit?.orders ?? []);
  const modes = $derived(set.modes);
  let chosen = $state(0);
  let beside = $state<number[]>([]);
  let hovered = $state.raw<PlaceOfPole | null>(null);
  let below = $state<'believe' | 'pairs' | 'references'>('believe');
  let comparing = $state(false);
  let saving = $state<HTMLElement | null>(null);

  /** The wireframe that shapes are drawn on; without one the responses stand in a row. */
  const frame = $derived.by((): Wireframe => {
    const found = frames.find((f) => f.frame.id === view.frame)?.frame;
    if (found) return found;
    const responses = set.facts?.responses ?? [];
    return {
      name: 'Responses in a row',
      ...EMPTY_FRAME,
      points: responses.map((r, k) => ({ name: r.name, part: '', at: [k, 0, 0] as const })),
      lines: responses.slice(1).map((r, k) => [responses[k].name, r.name] as const),
      sensors: responses.map((r) => ({ channel: r.id, point: r.name, direction: [0, 0, 1] as const })),
    };
  });
  const channels = $derived(set.facts?.responses.map((r) => r.id) ?? []);
  const shapeOf = (s: { re: ArrayLike<number>; im: ArrayLike<number> }) =>
    motionOf(frame, { re: Float64Array.from(s.re), im: Float64Array.from(s.im) }, channels);
  const numbersOf = (s: { re: ArrayLike<number>; im: ArrayLike<number> }) => ({
    shape: { re: Array.from(s.re), im: Array.from(s.im) },
    names: set.facts?.responses.map((r) => r.name) ?? [],
  });
  const hoveredPole = $derived(hovered && orders.find((o) => o.order === hovered!.order)?.poles[hovered.index]); // prettier-ignore
  const mode = $derived(modes?.modes[Math.min(chosen, modes.modes.length - 1)] ?? null);
  const shown = $derived.by(() => {
    const plum = traceColour(0, shell.night);
    if (hoveredPole && hovered)
      return {
        title: `${hoveredPole.hz.toFixed(2)} Hz · ${(100 * hoveredPole.damping).toFixed(2)} % · order ${hovered.order}`,
        says: ['new', 'frequency at rest', 'damping at rest, too', 'shape at rest, too'][hoveredPole.rest],
        shapes: [{ motion: shapeOf(hoveredPole.shape), colour: plum }],
        numbers: numbersOf(hoveredPole.shape),
      };
    if (!mode || !modes) return null;
    const others = beside.flatMap((k) => modes.modes[k] ?? []);
    return {
      title: `${chosen + 1} · ${mode.hz.toFixed(2)} Hz · ${(100 * mode.damping).toFixed(1)} %`,
      says: mode.name + (others.length ? `, with ${others.map((o) => o.name || `${o.hz.toFixed(2)} Hz`).join(' and ')}` : ''), // prettier-ignore
      numbers: numbersOf(mode.shape),
      shapes: [mode, ...others].map((m, k) => ({
        motion: shapeOf(m.shape),
        colour: k === 0 ? plum : traceColour(k, shell.night),
      })),
    };
  });

  /** A report of this set: its modes, diagram, shapes and how alike they are, to be worked on from there. */
  async function report() {
    const [take] = set.spans;
    const own = { analysis: view.name, set: view.sets.indexOf(set) + 1 };
    const settings = { modes: own, stabilization: own, shapes: own, alike: own };
    const made = await call('POST /api/reports', { body: { template: 'modes', take: take.take, settings } });
    await goto(resolve(`/report/${made.id}?take=${take.take}`));
  }
  const plain = () => set.picks.map((p) => ({ ...p }));
  const take = (picks: PickedMode[]) => analysis.say(() => analysis.pick(picks));
  function pick({ order, index }: PlaceOfPole) {
    const pole = orders.find((o) => o.order === order)?.poles[index];
    if (!pole) return;
    const same = set.picks.findIndex((p) => p.order === order && p.index === index);
    if (same >= 0) return void take(plain().filter((_, k) => k !== same));
    // Another pole of the same mode takes its place, and its name.
    const near = set.picks.findIndex((p) => Math.abs(p.hz / pole.hz - 1) < 0.004);
    const next = { order, index, hz: pole.hz, damping: pole.damping || 0, name: set.picks[near]?.name ?? '', out: false }; // prettier-ignore
    void take(near >= 0 ? plain().map((p, k) => (k === near ? next : p)) : [...plain(), next]);
  }
</script>

<div class="page">
  <div class="page-head">
    <h1>{view.name}</h1>
    <span class="aside"
      >{driven ? 'modal analysis of answers to forces' : 'operational modal analysis'} · from {set.takes.join(
        ', ',
      )}, {set.facts?.responses.length ?? '…'} responses</span
    >
    <div class="actions">
      <Button size="sm" color="alternative" onclick={() => void analysis.say(analysis.another)}
        >Another set</Button
      >
      <Button
        size="sm"
        color="alternative"
        aria-pressed={comparing}
        disabled={view.sets.length < 2 && !comparing}
        onclick={() => (comparing = !comparing)}>{comparing ? 'One set alone' : 'Compare sets'}</Button
      >
      <Button
        size="sm"
        color="alternative"
        onclick={(e: MouseEvent) => (saving = e.currentTarget as HTMLElement)}>More</Button
      >
      <Button size="sm" onclick={() => void analysis.say(report)}>Put in report</Button>
    </div>
  </div>
  {#if saving}
    <FloatBox anchor={saving} label="More" close={() => (saving = null)}>
      <ModalMenu {analysis} {frames} {takes} close={() => (saving = null)} />
    </FloatBox>
  {/if}
  {#if view.sets.length > 1 && !comparing}
    <div class="sets" role="group" aria-label="Sets">
      {#each view.sets as s, k (s.id)}<button
          class:here={s.id === set.id}
          aria-pressed={s.id === set.id}
          title={s.sentence}
          onclick={() => (analysis.chosen = s.id)}>{k + 1} · {s.title}</button
        >{/each}
    </div>
  {/if}
  {#if comparing}
    <Late part={() => import('./SetsCompare.svelte')}>
      {#snippet children(Part)}<Part {view} {frame} {maker} night={shell.night} />{/snippet}
    </Late>
  {:else}
    <div class="chain">
      <SentenceView
        sentence={CORRELATE_SENTENCE}
        value={correlateValue}
        {names}
        change={(key, value) => analysis.change({ correlate: { [key]: value } })}
      />
      <SentenceView
        sentence={FIT_SENTENCE}
        value={fitValue}
        {names}
        change={(key, value) => analysis.change({ fit: { [key]: value } })}
      />
    </div>
    {#if analysis.running}
      <div class="card slim" role="status">
        <p>
          {set.state === 'fitting' ? 'Fitting' : driven ? 'Looking at answers' : 'Correlating'}, {Math.round(
            set.progress * 100,
          )} %. It goes on when you leave this page.
        </p>
        <progress max="1" value={set.progress}></progress>
        <Button size="sm" color="alternative" onclick={() => void analysis.say(analysis.cancel)}
          >Cancel</Button
        >
      </div>
    {:else if set.fault}
      <FaultNote fault={set.fault} />
    {:else if set.state === 'cancelled' || set.outOfDate}
      <div class="card slim">
        <p class="late">
          {set.outOfDate
            ? '◔ Something that it depends on has changed since.'
            : 'It was cancelled before it was done.'}
        </p>
        <Button size="sm" onclick={() => void analysis.say(() => analysis.change({}))}
          >{set.outOfDate ? 'Bring up to date' : 'Compute it'}</Button
        >
      </div>
    {/if}
    {#each [...(set.facts?.says ?? []), ...set.says] as says (says)}<p class="late says">◆ {says}</p>{/each}
    {#if set.facts?.notes.length}<p class="muted says">{set.facts.notes.join(' ')}</p>{/if}
    {#if made}
      <div class="work">
        <Diagram
          {set}
          {made}
          {fit}
          night={shell.night}
          {pick}
          hover={(place) => (hovered = place)}
          bandTo={(edge, hz) => void analysis.say(() => analysis.change({ fit: { [edge]: hz } }))}
        />
        <section class="card right" aria-label="Shape">
          {#if shown}
            <ShapeCard {...shown} {frame} name="{view.name}, {shown.title}" night={shell.night} />
          {:else}
            <p class="muted empty">Pick a pole: its shape moves here.</p>
          {/if}
        </section>
        <section class="card modes" aria-label="Modes">
          <ModeTable
            {modes}
            spreading={analysis.spreading}
            suggested={set.suggested}
            lost={set.lost}
            {chosen}
            {beside}
            choose={(k, also) => {
              if (also && k !== chosen)
                beside = beside.includes(k) ? beside.filter((b) => b !== k) : [...beside, k].slice(-3);
              else [chosen, beside] = [k, []];
            }}
            change={(picks) => void take(picks)}
          />
        </section>
        <section class="card below" aria-label="Believe">
          <div class="tabs" role="group" aria-label="What is looked at">
            {#each [['believe', 'Believe'], ['pairs', 'Pairs'], ['references', !driven ? 'References' : set.facts?.hits.length ? 'Hits' : 'Forces']] as const as [key, word] (key)}<button
                class:here={below === key}
                aria-pressed={below === key}
                onclick={() => (below = key)}>{word}</button
              >{/each}
          </div>
          {#if below === 'pairs' && analysis.file}
            <Pairs
              {set}
              correlations={analysis.file.set}
              coherence={analysis.file.driving?.coherence ?? null}
              {made}
              night={shell.night}
            />
          {:else if below === 'references' && analysis.file?.driving && set.facts?.forces.length}
            <Forces
              {set}
              driving={analysis.file.driving}
              dtS={analysis.file.set.dtS}
              night={shell.night}
              {turn}
            />
          {:else if below === 'references' && !driven}
            <References {set} {made} />
          {:else if modes && modes.modes.length}
            <Believe {set} {modes} {made} night={shell.night} />
          {:else}
            <p class="muted">
              Once modes are picked: how alike they are, and the functions put together again from them.
            </p>
          {/if}
        </section>
      </div>
    {/if}
  {/if}
</div>

<style>
  .chain {
    display: flex;
    flex-direction: column;
  }
  .work {
    display: grid;
    grid-template-columns: minmax(0, 1.35fr) minmax(0, 1fr);
    grid-template-rows: minmax(240px, 1.35fr) minmax(214px, 1fr);
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .card {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
  }
  .below {
    padding: var(--space-2) var(--space-3);
    gap: var(--space-1);
  }
  .tabs,
  .sets {
    display: flex;
    gap: var(--space-4);
    font-size: var(--type-small);
    overflow: auto;
    flex-shrink: 0;
  }
  .tabs button,
  .sets button {
    color: var(--muted);
    white-space: nowrap;
    border-bottom: 2px solid transparent;
    padding-block: var(--space-half);
  }
  .tabs .here,
  .sets .here {
    color: var(--ink);
    font-weight: 600;
    border-bottom-color: var(--plum);
  }
  .slim {
    flex-direction: row;
    align-items: center;
    gap: var(--space-3);
    padding: var(--space-1) var(--space-3);
  }
  .slim p {
    margin: 0;
  }
  progress {
    width: 240px;
    accent-color: var(--plum-fill);
  }
  .late {
    color: var(--ochre);
  }
  .says {
    margin: 0;
    font-size: var(--type-small);
  }
  .empty {
    margin: auto;
  }
</style>
