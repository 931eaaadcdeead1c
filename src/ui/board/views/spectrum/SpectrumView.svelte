<!-- Amplitude spectrum of a channel as it runs: now, averaged, and the highest so far. -->
<script lang="ts">
  import { rmsAmplitude, welch } from '$core/spectrum/welch';
  import { readingText } from '$core/readings';
  import type { Figure } from '$core/figures/figure';
  import { unitText } from '../../../shell/reading';
  import { useShell } from '../../../shell/shell.svelte';
  import LiveFigure from '../LiveFigure.svelte';
  import type { ViewProps } from '../view';

  let { view, channels }: ViewProps = $props();
  const [channel] = $derived(channels);
  const { feed } = useShell();
  const LENGTH = 2048;
  const AVERAGES = 16;
  const EVERY_MS = 200;
  let peak = $state({ hz: NaN, value: NaN });
  let again = $state(0);

  function begin() {
    let average: Float64Array | null = null;
    let highest: Float64Array | null = null;
    let doneMs = 0;
    let upTo = 0;
    return (): Figure | null => {
      const wave = feed.waves.get(channel.id);
      const now = performance.now();
      if (!wave || now - doneMs < EVERY_MS) return null;
      const length = Math.min(LENGTH, 2 ** Math.floor(Math.log2(Math.max(64, wave.rateHz))));
      if (wave.length - upTo < length / 2 || wave.length < length) return null;
      doneMs = now;
      upTo = wave.length;
      const block = wave.read(wave.length - length, length);
      const result = welch(block, { sampleRateHz: wave.rateHz, segmentLength: length, window: 'Hann' });
      if (result.segments === 0) return null; // a gap lies in it
      const rms = rmsAmplitude(result);
      if (average?.length !== rms.length) average = highest = null;
      average = average ? average.map((v, i) => v + (rms[i] - v) / AVERAGES) : Float64Array.from(rms);
      highest = highest ? highest.map((v, i) => Math.max(v, rms[i])) : Float64Array.from(rms);
      let k = 1;
      for (let i = 2; i < average.length; i++) if (average[i] > average[k]) k = i;
      const frequencies = result.frequencyHz;
      peak = { hz: frequencies[k], value: average[k] };
      const from = 1;
      const top = highest.subarray(from).reduce((a, b) => Math.max(a, b), 0);
      const { colour } = channel;
      const line = { mark: 'line' as const, x: frequencies.subarray(from), colour, dashed: false };
      const [max, min] = [view.range?.max ?? wave.rateHz / 2.56, 0];
      return {
        title: 'Spectrum',
        x: { label: 'Frequency', unit: 'Hz', scale: 'linear', min, max },
        y: { label: 'Rms', unit: '', scale: 'logarithmic', min: top / 1e5, max: top * 1.5 },
        marks: [
          {
            ...line,
            name: 'highest',
            y: highest.subarray(from),
            tone: 'muted',
            dashed: true,
            weight: 'light',
          },
          { ...line, name: 'now', y: rms.subarray(from), weight: 'light' },
          { ...line, name: 'averaged', y: average.subarray(from) },
        ],
      };
    };
  }
</script>

<LiveFigure label="Spectrum of {channel.name}" of="{channel.id} {again} {view.range?.max}" {begin}>
  {#snippet foot()}
    <span>Hz · rms {unitText(channel)}; dotted: highest</span>
    <span class="mono peak" data-testid="spectrum-peak"
      >{readingText(peak.value, { digits: 3 })} at {readingText(peak.hz, { digits: 4 })} Hz</span
    >
    <button class="dotted" onclick={() => again++}>anew</button>
  {/snippet}
</LiveFigure>

<style>
  .peak {
    margin-left: auto;
  }
</style>
