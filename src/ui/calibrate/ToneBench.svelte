<!-- By a calibrator's tone: find it, measure its rms alone, compare with last time, accept the sensitivity. -->
<script lang="ts">
  import { fixed, readingText } from '$core/readings';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { levelDb } from '$core/quantities/quantities';
  import { budgetSentence, toneSentence, usualBudget, type ToneRun } from '$contract/calibration';
  import type { Method } from '$contract/calibration-record';
  import { channelKind, commonOf, type Calibration, type Channel } from '$contract/channel';
  import { Button } from 'flowbite-svelte';
  import type { ToneReading } from '$contract/api/calibrate';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import Facts from '../kit/Facts.svelte';
  import Verdict from '../kit/Verdict.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { liveText } from '../shell/reading';
  import { useShell } from '../shell/shell.svelte';
  import BenchHead from './BenchHead.svelte';
  import HandBox from './HandBox.svelte';
  import type { ReferenceChoice } from './references';
  import Trend from './Trend.svelte';

  type Props = { channel: Channel; history: Calibration[]; ways: Method[]; references: ReferenceChoice[] };
  let { channel, history, ways, references }: Props = $props();
  const shell = useShell();
  const { feed } = shell;

  const PASCAL = 2e-5;
  const { unit } = $derived(commonOf(channel));
  const { rawUnit } = $derived(channelKind(channel.kind));
  // The page is made anew for each channel.
  // svelte-ignore state_referenced_locally
  const usual = channelKind(channel.kind).tone!;
  const sound = usual.in === 'dB';
  // svelte-ignore state_referenced_locally
  let run = $state<ToneRun>({
    level: usual.level,
    hz: usual.hz,
    levelUnit: sound ? 'dB' : `${commonOf(channel).unit} rms`,
  });
  // svelte-ignore state_referenced_locally
  let budget = $state(usualBudget(commonOf(channel).unit));
  let tone = $state.raw<ToneReading | null>(null);
  let busy = $state(false);
  let accepted = $state(false);
  let fault = $state<FaultText | null>(null);

  /** Rms in the channel's unit: sound levels are typed in dB, as calibrators carry them. */
  const level = $derived(sound ? PASCAL * 10 ** (run.level / 20) : run.level);
  const steps = $derived(
    tone
      ? [
          { label: 'Frequency', value: `${fixed(tone.frequencyHz, 3)}`, unit: 'Hz' },
          { label: 'Tone', value: readingText(tone.rms, { digits: 5 }), unit: `${rawUnit} rms` },
          {
            label: 'Reads now',
            value: sound ? fixed(levelDb(tone.reads, PASCAL), 2) : readingText(tone.reads, { digits: 5 }),
            unit: sound ? 'dB' : `${unit} rms`,
          },
          { label: 'Off by', value: `${tone.off > 0 ? '+' : ''}${fixed(100 * tone.off, 2)}`, unit: '%' },
          { label: 'Distortion', value: fixed(100 * tone.distortion, 2), unit: '%' },
          { label: 'Level sways', value: fixed(100 * tone.instability, 3), unit: '%' },
          { label: 'Noise beside it', value: readingText(tone.noise, { digits: 2 }), unit: `${rawUnit} rms` },
          {
            label: 'Since last time',
            value: tone.lastSlope ? `${fixed(100 * (tone.slope / tone.lastSlope - 1), 2)}` : 'first time',
            unit: tone.lastSlope ? '%' : '',
          },
        ]
      : [],
  );

  async function act(what: 'measure' | 'accept') {
    busy = true;
    fault = null;
    try {
      if (what === 'measure') {
        accepted = false;
        tone = await call('POST /api/calibrate/tone', {
          body: {
            channelId: channel.id,
            level,
            hz: run.hz,
          },
        });
      } else {
        await call('POST /api/calibrate/tone/accept', { body: { channelId: channel.id, budget } });
        accepted = true;
        await shell.refresh();
      }
    } catch (error) {
      fault = faultText(error);
      if (what === 'measure') tone = null;
    } finally {
      busy = false;
    }
  }
</script>

<div class="page">
  <BenchHead
    {channel}
    way="tone"
    {ways}
    says={history.length
      ? `last proven ${new Date(history[0].at).toLocaleDateString('en-GB', { dateStyle: 'medium' })}`
      : 'not calibrated here yet'}
  >
    <Button size="sm" disabled={!tone || busy || accepted} onclick={() => void act('accept')}>Accept</Button>
  </BenchHead>
  <SentenceView
    sentence={toneSentence}
    value={run}
    names={NO_NAMES}
    change={(key, value) => Promise.resolve(void (run = { ...run, [key]: value }))}
    size="large"
  />
  <div class="small">
    <SentenceView
      sentence={budgetSentence}
      value={budget}
      names={NO_NAMES}
      change={(key, value) => Promise.resolve(void (budget = { ...budget, [key]: value }))}
      options={{ references: references.map((r) => r.serial) }}
    />
  </div>
  {#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
  <div class="columns">
    <section class="card">
      <h2>Tone</h2>
      <p class="live mono">
        {liveText(channel, feed.value(channel.id))} <span class="muted">{unit} now</span>
      </p>
      <Button size="sm" class="w-full" disabled={busy} onclick={() => void act('measure')}
        >{busy ? 'Measuring …' : tone ? 'Measure again' : 'Measure the tone'}</Button
      >
      {#if tone}
        <Facts facts={steps} />
      {:else}<p class="muted">Couple the sensor firmly, switch the calibrator on, then measure.</p>{/if}
      <HandBox channels={[channel]} />
    </section>
    <section class="card">
      <h2>Sensitivity</h2>
      {#if tone}
        <p class="big mono" data-testid="sensitivity">
          {readingText(tone.sensitivity, { digits: 5 })} <span class="muted">{rawUnit}/({unit})</span>
        </p>
        {#each tone.warnings as w (w)}<Verdict>{w}</Verdict>{/each}
        {#if tone.warnings.length === 0}<Verdict good
            >Level, distortion and stability are as they should be.</Verdict
          >{/if}
        {#if accepted}<Verdict good>Accepted: in force from now on.</Verdict>{/if}
      {:else}<p class="muted">It is the tone’s rms over the calibrator’s level.</p>{/if}
    </section>
    <section class="card">
      <h2>Slope over the years</h2>
      <Trend {history} at={level || 1} now={tone} height={140} />
    </section>
  </div>
</div>

<style>
  .small :global(p) {
    font-size: var(--type-small);
    line-height: 1.6;
  }
  .small {
    margin-top: calc(-1 * var(--space-1));
    color: var(--muted);
  }
  .columns {
    display: grid;
    grid-template-columns: 300px minmax(0, 1fr) minmax(0, 1fr);
    gap: var(--space-3);
    align-items: start;
  }
  section {
    padding: var(--space-3);
  }
  .live,
  .big {
    font-size: var(--type-title);
    margin: var(--space-1) 0 var(--space-2);
  }
  .big {
    font-size: var(--type-display);
  }
  .live .muted,
  .big .muted {
    font-size: var(--type-body);
  }
</style>
