<!-- Listening to a band: what is heard as a sentence, its lines with pins and dimensions, its waterfall, how often each level occurs. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { Button } from 'flowbite-svelte';
  import { resolve } from '$app/paths';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { shapeWidths } from '$core/radio/response';
  import { hertzText, secondsText } from '$core/radio/words';
  import { fixed } from '$core/readings';
  import { HEAT, NIGHT_HEAT } from '$contract/palette';
  import { FADING, LISTENING, PICTURE, type RadioView } from '$contract/radio';
  import Empty from '../kit/Empty.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';
  import BandPicture from './BandPicture.svelte';
  import { heatPixels } from '../plot/canvas';
  import { BandDesk } from './desk.svelte';
  import Falls from './Falls.svelte';
  import Limits from './Limits.svelte';
  import LineList from './LineList.svelte';
  import Places from './Places.svelte';
  import PlayBar from './PlayBar.svelte';
  import Peaks from './Peaks.svelte';
  import Widths from './Widths.svelte';
  import { drawDensity } from './waterfall-plot';
  import { watchReceivers } from './receivers';
  import { logBand, recordBand, saveLine } from './out';

  type Props = { views: RadioView[]; shown: string | null };
  let { views, shown }: Props = $props();
  const shell = useShell();

  const desk = new BandDesk(shell);
  const { ear } = desk;
  $effect.pre(() => void (desk.all = views));
  $effect.pre(() => void (desk.unit = shown ?? untrack(() => desk.unit)));
  const receivers = watchReceivers(shell);
  $effect(() => receivers(() => void desk.look()));
  const view = $derived(desk.view);
  const measuring = $derived(desk.measuring);
  $effect(() => {
    const serial = view?.unit;
    if (!serial) return;
    return untrack(() =>
      shell.feed.watchRadio(serial, 'radio', (kind, payload) =>
        ear.take(kind, payload, () => void desk.look()),
      ),
    );
  });
  const change = (key: string, value: unknown) => desk.listen({ [key]: value });

  const picture = $derived(ear.picture);
  const plan = $derived(picture?.plan);
  const ratio = $derived.by(() => {
    if (!view) return '';
    const w = shapeWidths(view.listening.shape);
    return `60 dB at ${(w.at60 / w.at6).toFixed(1)} times the 6 dB width`;
  });
  const says = $derived.by(() => {
    if (!picture || !plan) return '';
    if (plan.certainS === null)
      return `${plan.steps} steps, a sweep takes ${secondsText(picture.toS - picture.fromS)}: what is shorter can be missed`;
    const certain =
      picture.lost > 0
        ? 'samples were lost: nothing is certain'
        : `nothing is missed that lasts ${secondsText(plan.certainS)}`;
    return `${Math.round(plan.sampleRateHz / plan.step)
      .toLocaleString('en')
      .replaceAll(',', ' ')} sweeps a second, ${certain}`;
  });

  /** What the waterfall shows, s. */
  const spanS = 15;

  /** The samples are a channel, and a take is armed. */
  async function record() {
    if (!view || view.recorded) return;
    const fresh = await desk.doing(() => recordBand(view, shell));
    if (fresh === null) return;
    if (fresh) note = 'Every sample of the band is a channel now.';
    shell.arm();
  }

  let peaks: Peaks | undefined = $state();
  let note = $state('');
  function keys(e: KeyboardEvent) {
    if (
      (e.target as HTMLElement).closest('input, textarea, select, [role=dialog], [role=slider]') ||
      e.ctrlKey ||
      e.metaKey ||
      e.altKey
    )
      return;
    const acts: Record<string, () => void> = {
      h: () => (ear.held = !ear.held),
      p: () => desk.go('highest'),
      ArrowLeft: () => desk.go('left'),
      ArrowRight: () => desk.go('right'),
      ArrowDown: () => desk.go('lower'),
      ArrowUp: () => desk.go('higher'),
      c: () => void peaks?.copy(),
      l: desk.level,
      b: () => void record(),
    };
    const act = acts[e.key];
    if (!act) return;
    e.preventDefault();
    act();
  }
  function density(canvas: HTMLCanvasElement) {
    const draw = () =>
      ear.density && drawDensity(canvas, ear.density, heatPixels(shell.night ? NIGHT_HEAT : HEAT));
    draw();
    return ear.onPicture(draw);
  }
</script>

<svelte:window onkeydown={keys} />
{#if !view || !measuring}
  <div class="page">
    <div class="page-head"><h1>Radio</h1></div>
    <Empty says="No receiver is there yet: add one to the rig, and what it hears is drawn here.">
      <Button href={resolve('/rig')}>Open the rig</Button>
    </Empty>
  </div>
{:else}
  <div class="page radio">
    <div class="page-head">
      <h1>Radio</h1>
      {#if desk.all.length > 1}
        <select class="plain" aria-label="Receiver" bind:value={desk.unit}>
          {#each desk.all as v (v.unit)}<option value={v.unit}>{v.name}</option>{/each}
        </select>
      {:else}<span class="muted">{view.name}</span>{/if}
      <span class="aside"
        >{view.answering
          ? `hears ${hertzText(view.receiver.centreHz - view.receiver.sampleRateHz * 0.4, 1)} to ${hertzText(view.receiver.centreHz + view.receiver.sampleRateHz * 0.4, 1)}${view.receiver.scaled ? '' : ' · no level is known: 0 dBm is its full scale'}`
          : view.says}</span
      >
      <div class="actions">
        <Places take={view.recorded?.takeId} />
        <Button size="sm" color="alternative" onclick={desk.wider}>All it hears</Button>
      </div>
    </div>
    <div class="says">
      <SentenceView sentence={LISTENING} value={view.listening} names={NO_NAMES} size="large" {change} />
      <span class="muted">{ratio}{says ? `; ${says}` : ''}.</span>
      <LineList
        lines={view.lines}
        heard={picture}
        night={shell.night}
        measured={picture?.lines.some((l) => l.id === measuring.line) === false
          ? view.lines[0].id
          : measuring.line}
        measure={(line) => void desk.doing(() => desk.measure({ line }))}
        change={desk.lines}
        clear={desk.clear}
        takeOut={(l) => picture && saveLine(l, view.lines, picture)}
      />
    </div>
    {#if ear.fault}<p class="fault" role="alert">{ear.fault.says} {ear.fault.next}</p>{/if}
    {#if view.recorded}<PlayBar recorded={view.recorded} nowS={picture?.toS ?? null} play={desk.play} />{/if}
    <div class="columns">
      <div class="card band">
        <div class="head muted">
          <span>dBm</span>
          <SentenceView sentence={PICTURE} size="small" value={view.listening} names={NO_NAMES} {change} />
          <Limits
            line={desk.line}
            limits={measuring.limits}
            change={(limits) => void desk.doing(() => desk.measure({ limits }))}
          />
          {#if picture?.overload}<span class="warn">overloaded: what is drawn is doubtful</span>{/if}
          <span class="right">drag to look closer · wheel narrows</span>
        </div>
        <div class="plot">
          <BandPicture
            {ear}
            listening={view.listening}
            lines={view.lines}
            {measuring}
            dimensions={desk.dimensions}
            chosen={desk.chosen}
            aside={desk.aside}
            night={shell.night}
            choose={(id) => (desk.chosen = id)}
            pinTo={desk.pinTo}
            levelTo={(level) => void desk.doing(() => desk.measure({ level }))}
            closer={desk.closer}
            wheel={desk.wheel}
          />
        </div>
        <div class="head muted">
          <b>{ear.pointerS === null ? `the last ${secondsText(spanS)}` : 'as it was at the pointer'}</b>
          <span
            >paper {fixed(view.listening.top - view.listening.height, 0)} to plum {fixed(
              view.listening.top,
              0,
            )} dBm</span
          >
          <span class="right">
            {#if ear.pointerS !== null}<button
                type="button"
                class="dotted"
                onclick={() => (ear.pointerS = null)}>back to now</button
              >
            {:else}drag the pointer to look back{/if}
          </span>
        </div>
        <div class="falls"><Falls {ear} listening={view.listening} {spanS} night={shell.night} /></div>
      </div>
      <div class="side">
        <Peaks
          bind:this={peaks}
          line={desk.line}
          {measuring}
          chosen={desk.chosen}
          counted={picture?.counted ?? null}
          change={desk.measure}
          choose={(id) => (desk.chosen = id)}
          said={(s) => (note = s)}
        />
        <Widths
          found={desk.widths}
          {measuring}
          change={desk.measure}
          centreOn={desk.centreOn}
          logIt={async () =>
            void (await desk.doing(
              async () => (note = await logBand(view, measuring, desk.middle / 1e6, shell)),
            ))}
        />
        <section class="card often" aria-label="How often each level">
          <header>
            <h2>How often each level</h2>
            <button type="button" class="quiet" onclick={() => desk.clear([])}>begin anew</button>
          </header>
          <canvas {@attach density} aria-label="How often each level occurs at each frequency"></canvas>
          <p class="muted">
            fuller is oftener · <SentenceView
              sentence={FADING}
              size="small"
              value={view.listening}
              names={NO_NAMES}
              {change}
            />
          </p>
        </section>
      </div>
    </div>
    <footer>
      <span class="muted">{note || shell.feed.notes.at(-1)?.says || ''}</span>
      <div class="acts">
        <Button size="sm" color="alternative" onclick={() => desk.go('highest')}>Highest <kbd>P</kbd></Button>
        <Button size="sm" color="alternative" onclick={() => desk.go('right')}>Next peak <kbd>→</kbd></Button>
        <Button size="sm" color="alternative" onclick={desk.level}
          >{measuring.level === null ? 'Level line' : 'No level line'} <kbd>L</kbd></Button
        >
        {#if !view.recorded}
          <Button size="sm" color="alternative" onclick={() => void record()}
            >Record the band <kbd>B</kbd></Button
          >
        {/if}
        <Button size="sm" color={ear.held ? 'primary' : 'alternative'} onclick={() => (ear.held = !ear.held)}
          >{ear.held ? 'Go on' : 'Hold the view'} <kbd>H</kbd></Button
        >
      </div>
    </footer>
  </div>
{/if}

<style>
  .says {
    line-height: 1.75;
  }
  .says .muted {
    font-size: var(--type-small);
  }
  .fault {
    color: var(--red);
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 304px;
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .band {
    display: flex;
    flex-direction: column;
    padding: var(--space-2) var(--space-1) var(--space-2) var(--space-1);
    min-height: 0;
  }
  .head {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
    padding: 0 var(--space-3);
    font-size: var(--type-small);
    white-space: nowrap;
    overflow: hidden;
  }
  .head b {
    color: var(--plum);
    font-weight: 650;
  }
  .right {
    margin-left: auto;
  }
  .warn {
    color: var(--red);
    font-weight: 600;
  }
  .plot {
    flex: 3;
    min-height: 0;
    position: relative;
  }
  .falls {
    flex: 2;
    min-height: 0;
    position: relative;
  }
  .side {
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
    min-height: 0;
    overflow-y: auto;
    scrollbar-width: thin;
  }
  .often {
    display: flex;
    flex-direction: column;
    flex: 1;
    min-height: 112px;
    padding: var(--space-2) var(--space-3);
  }
  .often header {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
  }
  .often canvas {
    width: 100%;
    flex: 1;
    min-height: 40px;
    max-height: 220px;
    display: block;
    margin-top: var(--space-2);
    image-rendering: pixelated;
  }
  .often p,
  .quiet {
    font-size: var(--type-small);
    color: var(--muted);
  }
  .quiet:hover {
    color: var(--plum);
  }
  footer {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: var(--space-4);
    border-top: 1px solid var(--line);
    padding-top: var(--space-3);
  }
  footer > .muted {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .acts {
    display: flex;
    gap: var(--space-2);
    flex-shrink: 0;
  }
</style>
