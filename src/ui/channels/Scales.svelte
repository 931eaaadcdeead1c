<!-- Conversions with a name: made, changed and shown where they are used. -->
<script lang="ts">
  import { scaleText, twoPoints, type Scale } from '$contract/scale';
  import type { Channel } from '$contract/channel';
  import { Button } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { parseNumber } from '../sentence/options';
  import { useShell } from '../shell/shell.svelte';

  type Props = { scales: Scale[]; channels: Channel[] };
  let { scales, channels }: Props = $props();
  const shell = useShell();
  const FORMS = ['slope and offset', 'two points', 'polynomial', 'table'] as const;
  type Form = (typeof FORMS)[number];

  let edited = $state<{
    id?: string;
    name: string;
    rawUnit: string;
    unit: string;
    form: Form;
    text: string;
  } | null>(null);
  let fault = $state<FaultText | null>(null);
  const HELP: Record<Form, string> = {
    'slope and offset': 'Slope and offset, such as 2.5 and 0.1.',
    'two points': 'Two lines, each a raw value and its value.',
    polynomial: 'Coefficients from the lowest power on: c0, c1, c2 …',
    table: 'One point a line: raw value and value. Straight lines lie between.',
  };
  const numbers = (text: string) =>
    text
      .split(/[\s;]+|,\s+/)
      .filter(Boolean)
      .map(parseNumber);

  function lawOf(form: Form, text: string): Scale['law'] {
    const pairs = text
      .split('\n')
      .filter((l) => l.trim())
      .map(numbers);
    const wrong = pairs.flat().some(Number.isNaN);
    if (wrong)
      throw new Error('There is something that is no number. Separate numbers by blanks, points by lines.');
    switch (form) {
      case 'slope and offset': {
        const [slope, offset = 0] = pairs.flat();
        return { kind: 'linear', slope, offset };
      }
      case 'two points': {
        const [a, b] = pairs;
        if (a?.length !== 2 || b?.length !== 2) throw new Error('Give two lines of two numbers each.');
        return twoPoints({ raw: a[0], value: a[1] }, { raw: b[0], value: b[1] });
      }
      case 'polynomial':
        return { kind: 'polynomial', coefficients: pairs.flat() };
      case 'table':
        return { kind: 'table', xs: pairs.map((p) => p[0]), ys: pairs.map((p) => p[1] ?? NaN) };
    }
  }
  const edit = (scale: Scale) => {
    const { law } = scale;
    edited = {
      ...scale,
      form: law.kind === 'linear' ? 'slope and offset' : law.kind,
      text:
        law.kind === 'linear'
          ? `${law.slope} ${law.offset}`
          : law.kind === 'polynomial'
            ? law.coefficients.join(' ')
            : law.xs.map((x, k) => `${x} ${law.ys[k]}`).join('\n'),
    };
  };
  async function attempt(work: () => Promise<unknown>) {
    try {
      await work();
      fault = null;
      await shell.refresh();
      return true;
    } catch (error) {
      fault = faultText(error);
      return false;
    }
  }
  async function save() {
    const { id, name, rawUnit, unit, form, text } = edited!;
    if (
      await attempt(async () =>
        call('POST /api/scales', { body: { id, name, rawUnit, unit, law: lawOf(form, text) } }),
      )
    )
      edited = null;
  }
  const users = (scale: Scale) => channels.filter((c) => c.scale?.id === scale.id);
</script>

{#if scales.length === 0 && !edited}
  <p class="muted">
    A scale is a conversion with a name, such as the table of a level sensor. Several channels can use it;
    changing it changes them all.
  </p>
{/if}
{#each scales as scale (scale.id)}
  <div class="scale">
    <strong>{scale.name}</strong>
    <span>{scale.rawUnit} → {scale.unit}: {scaleText(scale)}</span>
    <span class="muted"
      >{users(scale).length
        ? `used by ${users(scale)
            .map((c) => c.name)
            .join(', ')}`
        : 'not used'}</span
    >
    <button class="dotted" onclick={() => edit(scale)}>change</button>
    <button
      class="dotted"
      disabled={users(scale).length > 0}
      onclick={() => void attempt(() => call('DELETE /api/scales/[id]', { params: { id: scale.id } }))}
      >remove</button
    >
  </div>
{/each}
{#if edited}
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void save();
    }}
  >
    <label>Name <input bind:value={edited.name} required /></label>
    <label>From <input bind:value={edited.rawUnit} size="7" /></label>
    <label>to <input bind:value={edited.unit} size="7" /></label>
    <label
      >as <select bind:value={edited.form}
        >{#each FORMS as form (form)}<option>{form}</option>{/each}</select
      ></label
    >
    <textarea
      class="mono"
      rows={edited.form === 'table' ? 7 : 2}
      bind:value={edited.text}
      aria-label="Numbers"></textarea>
    <p class="muted">{HELP[edited.form]}</p>
    <div class="row">
      <Button size="sm" type="submit">{edited.id ? 'Change it' : 'Make it'}</Button><button
        type="button"
        class="dotted"
        onclick={() => (edited = null)}>leave it</button
      >
    </div>
  </form>
{:else}
  <Button
    size="sm"
    color="alternative"
    onclick={() => (edited = { name: '', rawUnit: 'V', unit: 'm', form: 'two points', text: '' })}
    >New scale</Button
  >
{/if}
{#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}

<style>
  .scale {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
    padding: var(--space-1) 0;
    border-bottom: 1px solid var(--line);
    font-size: var(--type-body);
    flex-wrap: wrap;
  }
  .scale button {
    font-size: var(--type-small);
  }
  form {
    display: flex;
    gap: var(--space-2) var(--space-3);
    flex-wrap: wrap;
    align-items: center;
    margin-top: var(--space-2);
  }
  textarea {
    flex-basis: 100%;
  }
  p {
    margin: 0;
    flex-basis: 100%;
    font-size: var(--type-small);
  }
  input,
  select,
  textarea {
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-2);
  }
  select {
    padding-right: var(--space-6);
  }
  .row {
    display: flex;
    gap: var(--space-3);
    align-items: center;
  }
</style>
