<!-- Sets a terminal by hand: output value, direction and level of a line, pulses, shunt. Never during a take. -->
<script lang="ts">
  import type { Probe, TerminalKind, TryOut } from '$contract/unit';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';

  type Props = { at: { serial: string; terminal: string }; kind: TerminalKind; probe: Probe };
  let { at, kind, probe }: Props = $props();
  let fault = $state<FaultText | null>(null);
  let value = $state('');
  let hz = $state('10');
  let duty = $state('50');

  async function act(what: TryOut) {
    try {
      await call('POST /api/units/[serial]/[...terminal]', { params: at, body: what });
      fault = null;
    } catch (error) {
      fault = faultText(error);
    }
  }
  const number = (text: string) => Number(text.replace(',', '.'));
</script>

{#if kind === 'output' || kind === 'setting'}
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void act({ set: 'value', value: number(value) });
    }}
  >
    <label for="try-value">Set to</label>
    <input
      id="try-value"
      class="mono"
      bind:value
      inputmode="decimal"
      placeholder={String(probe.output ?? 0)}
    />
    <span class="muted">{probe.unit === '1' ? '' : probe.unit}</span>
    <button class="go" type="submit" disabled={value.trim() === '' || Number.isNaN(number(value))}>Set</button
    >
  </form>
{:else if kind === 'relay'}
  <div class="row">
    <span>Relay</span>
    <button
      class="switch"
      role="switch"
      aria-label="Relay"
      aria-checked={probe.output === 1}
      onclick={() => void act({ set: 'value', value: probe.output === 1 ? 0 : 1 })}
      >{probe.output === 1 ? 'on' : 'off'}</button
    >
  </div>
{:else if probe.line}
  {@const line = probe.line}
  {#if kind === 'line'}
    <div class="row">
      <span>Direction</span>
      {#each ['in', 'out'] as const as direction (direction)}
        <button
          class="switch"
          aria-pressed={line.direction === direction}
          onclick={() => void act({ set: 'direction', direction })}>{direction}</button
        >
      {/each}
      <span class="muted level">level {line.on ? 'high' : 'low'}</span>
    </div>
    {#if line.direction === 'out'}
      <div class="row">
        <span>Level</span>
        <button
          class="switch"
          role="switch"
          aria-label="Level"
          aria-checked={line.on}
          onclick={() => void act({ set: 'level', on: !line.on })}>{line.on ? 'high' : 'low'}</button
        >
      </div>
      <form
        onsubmit={(e) => {
          e.preventDefault();
          void act({ set: 'pulses', hz: number(hz), duty: number(duty) / 100 });
        }}
      >
        <label for="try-hz">Pulses</label>
        <input id="try-hz" class="mono" bind:value={hz} size="6" aria-label="Frequency" /><span class="muted"
          >Hz</span
        >
        <input class="mono" bind:value={duty} size="4" aria-label="Duty" /><span class="muted">% high</span>
        <button class="go" type="submit">{line.pulsesHz > 0 ? 'Change' : 'Generate'}</button>
        {#if line.pulsesHz > 0}<button
            type="button"
            class="dotted"
            onclick={() => void act({ set: 'level', on: false })}>stop</button
          >{/if}
      </form>
      {#if line.pulsesHz > 0}<p class="muted">
          {line.pulsesHz} Hz, {Math.round(line.duty * 100)} % high
        </p>{/if}
    {/if}
  {/if}
  {#if kind === 'pulse'}
    <div class="row">
      <span>Edges counted</span><span class="mono">{line.edges.toLocaleString('en-GB')}</span>
      <button class="dotted" onclick={() => void act({ set: 'count from 0' })}>from 0</button>
    </div>
  {/if}
{:else if probe.shunt !== undefined}
  <div class="row">
    <span>Shunt resistor</span>
    <button
      class="switch"
      role="switch"
      aria-label="Shunt"
      aria-checked={probe.shunt}
      onclick={() => void act({ set: 'shunt', on: !probe.shunt })}>{probe.shunt ? 'on' : 'off'}</button
    >
  </div>
{/if}
{#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}

<style>
  form,
  .row {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    flex-wrap: wrap;
  }
  p {
    margin: 0;
    font-size: var(--type-small);
  }
  input {
    width: 84px;
    padding: var(--space-half) var(--space-2);
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
  }
  input[size='6'] {
    width: 66px;
  }
  input[size='4'] {
    width: 48px;
  }
  .switch,
  .go {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: 1px var(--space-2);
    min-width: 46px;
    background: var(--paper);
  }
  .switch[aria-checked='true'],
  .switch[aria-pressed='true'] {
    background: var(--tint);
    color: var(--plum);
    font-weight: 600;
  }
  .go {
    color: var(--plum);
    font-weight: 600;
  }
  .go:disabled {
    opacity: 0.45;
  }
  .level {
    margin-left: auto;
  }
</style>
