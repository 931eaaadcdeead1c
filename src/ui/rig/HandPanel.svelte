<!-- The stand-in's controls: what a hand at the rig would do. -->
<script lang="ts">
  import type { StandInControl, UnitDescription } from '$contract/unit';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';

  type Props = { unit: UnitDescription; only?: string[] };
  let { unit, only }: Props = $props();

  let fault = $state<FaultText | null>(null);
  const controls = $derived(unit.controls.filter((c) => !only || only.includes(c.id)));

  async function set(control: StandInControl, value: number) {
    try {
      await call('POST /api/units/[serial]', {
        params: { serial: unit.serial },
        body: { control: control.id, value },
      });
      fault = null;
    } catch (error) {
      fault = faultText(error);
    }
  }
  /** A control that has a place just below its scale is let go of there. */
  const letsGo = (c: StandInControl) => c.min === -1;
  const least = (c: StandInControl) => (letsGo(c) ? 0 : c.min);
  const released = (c: StandInControl) => letsGo(c) && c.value < 0;
</script>

<div class="hands">
  {#each controls as control (control.id)}
    <div class="hand">
      {#if control.unit === 'yes/no'}
        <span class="label">{control.label}</span>
        <button
          class="switch"
          role="switch"
          aria-checked={control.value > 0.5}
          aria-label={control.label}
          onclick={() => void set(control, control.value > 0.5 ? 0 : 1)}
          >{control.value > 0.5 ? 'yes' : 'no'}</button
        >
      {:else}
        <label class="label" for="hand-{control.id}">{control.label}</label>
        <input
          type="range"
          min={least(control)}
          max={control.max}
          step="1"
          value={Math.max(least(control), control.value)}
          oninput={(e) => void set(control, Number(e.currentTarget.value))}
          aria-label="{control.label}, slider"
        />
        <input
          class="mono"
          id="hand-{control.id}"
          type="number"
          min={least(control)}
          max={control.max}
          value={released(control) ? '' : control.value}
          onchange={(e) =>
            void set(control, e.currentTarget.value === '' ? control.min : Number(e.currentTarget.value))}
        />
        <span class="muted">{control.unit}</span>
        {#if control.min < 0}<button
            class="dotted"
            disabled={released(control)}
            onclick={() => void set(control, control.min)}>let go</button
          >{/if}
      {/if}
    </div>
  {/each}
  {#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
</div>

<style>
  .hands {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-2) var(--space-6);
  }
  .hand {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    flex-wrap: wrap;
  }
  .label {
    white-space: nowrap;
  }
  input[type='number'] {
    width: 68px;
    padding: var(--space-half) var(--space-1);
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
  }
  input[type='range'] {
    width: 110px;
    accent-color: var(--plum-fill);
  }
  .switch {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: 1px var(--space-2);
    min-width: 46px;
    background: var(--paper);
  }
  .switch[aria-checked='true'] {
    background: var(--tint);
    color: var(--plum);
    font-weight: 600;
  }
  .dotted:disabled {
    opacity: 0.4;
  }
</style>
