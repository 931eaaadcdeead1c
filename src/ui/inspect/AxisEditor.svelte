<!-- The axis of a channel: its range, linear or logarithmic, another unit for display; and where the channel is drawn. -->
<script lang="ts">
  import { unitsOf } from '$core/quantities/quantities';
  import { OWN_AXIS, type Axis } from '$contract/drawing';
  import FloatBox from '../kit/FloatBox.svelte';
  import { parseNumber } from '../sentence/options';
  import type { Inspection } from './inspection.svelte';
  import { signalOf } from './panels';

  type Props = { insp: Inspection; channel: string; anchor: HTMLElement; close: () => void };
  let { insp, channel, anchor, close }: Props = $props();

  const axis = $derived(insp.drawing.axis[channel] ?? OWN_AXIS);
  const signal = $derived(insp.ordered.map((t) => signalOf(t, channel)).find(Boolean));
  const units = $derived(signal ? [...new Set([signal.unit, ...unitsOf(signal.quantity)])] : []);
  const at = $derived(insp.names.indexOf(channel));
  const others = $derived(insp.names.filter((n) => n !== channel && !insp.drawing.together[n]));
  let fault = $state('');

  function set(change: Partial<Axis>) {
    insp.change({ axis: { ...insp.drawing.axis, [channel]: { ...axis, ...change } } });
  }
  function end(key: 'min' | 'max', text: string) {
    const value = text.trim() === '' ? null : parseNumber(text);
    if (value !== null && Number.isNaN(value)) return void (fault = `“${text}” is no number.`);
    if (value !== null && axis.logarithmic && value <= 0)
      return void (fault = 'A logarithmic axis has only values above 0.');
    const next = { ...axis, [key]: value };
    if (next.min !== null && next.max !== null && next.min >= next.max)
      return void (fault = 'The upper end has to be above the lower one.');
    fault = '';
    set({ [key]: value });
  }
  function move(by: 1 | -1) {
    const names = [...insp.names];
    const [own] = names.splice(at, 1);
    names.splice(at + by, 0, own);
    insp.change({ channels: names });
  }
  function join(other: string) {
    const together = { ...insp.drawing.together };
    if (other) together[channel] = other;
    else delete together[channel];
    insp.change({ together });
  }
  const takeAway = () => {
    insp.change({ channels: insp.names.filter((n) => n !== channel) });
    close();
  };
</script>

<FloatBox {anchor} label="Axis of {channel}" {close}>
  <div class="axis">
    <strong>{channel}</strong>
    <label
      >from <input
        type="text"
        inputmode="decimal"
        value={axis.min ?? ''}
        placeholder="its own"
        size="8"
        aria-label="Lower end"
        onchange={(e) => end('min', e.currentTarget.value)}
      /></label
    >
    <label
      >to <input
        type="text"
        inputmode="decimal"
        value={axis.max ?? ''}
        placeholder="its own"
        size="8"
        aria-label="Upper end"
        onchange={(e) => end('max', e.currentTarget.value)}
      /></label
    >
    <button
      class="dotted"
      disabled={axis.min === null && axis.max === null}
      onclick={() => ((fault = ''), set({ min: null, max: null }))}>round what is in view</button
    >
    <label
      >Scale <select
        value={axis.logarithmic ? 'logarithmic' : 'linear'}
        onchange={(e) => set({ logarithmic: e.currentTarget.value === 'logarithmic' })}
        ><option>linear</option><option>logarithmic</option></select
      ></label
    >
    {#if units.length > 1}
      <label
        >In <select
          aria-label="Unit"
          value={axis.unit ?? signal!.unit}
          onchange={(e) =>
            set({
              unit: e.currentTarget.value === signal!.unit ? null : e.currentTarget.value,
              min: null,
              max: null,
            })}
          >{#each units as unit (unit)}<option>{unit}</option>{/each}</select
        ></label
      >
    {/if}
    {#if insp.drawing.as === 'strips'}
      <label
        >Drawn <select
          aria-label="Drawn with"
          value={insp.drawing.together[channel] ?? ''}
          onchange={(e) => join(e.currentTarget.value)}
          ><option value="">in a strip of its own</option>{#each others as other (other)}<option value={other}
              >with {other}</option
            >{/each}</select
        ></label
      >
    {/if}
    <p>
      <button class="dotted" disabled={at <= 0} onclick={() => move(-1)}>further up</button>
      <button class="dotted" disabled={at < 0 || at >= insp.names.length - 1} onclick={() => move(1)}
        >further down</button
      >
      <button class="dotted" onclick={takeAway}>take it away</button>
    </p>
    {#if fault}<p class="wrong" role="alert">◆ {fault}</p>{/if}
  </div>
</FloatBox>

<style>
  .axis {
    display: grid;
    gap: var(--space-2);
    max-width: 300px;
  }
  label {
    display: grid;
    grid-template-columns: 52px 1fr;
    align-items: center;
    gap: var(--space-2);
  }
  p {
    margin: 0;
    display: flex;
    gap: var(--space-3);
  }
  .wrong {
    color: var(--red);
  }
</style>
