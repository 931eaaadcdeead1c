<!-- Tables of correction and sets of limits that are kept by name: typed, pasted from a sheet or read from CSV. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { CORRECTION_KINDS } from '$core/emissions/corrections';
  import { LIMIT_DETECTORS, type LimitDetector } from '$core/emissions/limits';
  import type { Correction, LimitSet } from '$contract/radio-kept';
  import { call, faultText } from '../../api';
  import DayField from '../../kit/DayField.svelte';
  import Dialog from '../../kit/Dialog.svelte';
  import { readRows } from '../words';

  type Props = {
    open: boolean;
    corrections: Correction[];
    limits: LimitSet[];
    changed: (kept: { corrections?: Correction[]; limits?: LimitSet[] }) => void;
  };
  let { open = $bindable(), corrections, limits, changed }: Props = $props();

  let what = $state<'corrections' | 'limits'>('corrections');
  let name = $state('');
  let kind = $state<Correction['kind']>('cable loss');
  let measured = $state('');
  let expanded = $state(0.5);
  let texts = $state<Record<LimitDetector, string>>({ peak: '', 'quasi-peak': '', average: '' });
  let text = $state('');
  let says = $state('');

  const points = (of: string, value: 'db' | 'level') => {
    const rows = readRows(of, `a frequency in MHz and ${value === 'db' ? 'dB' : 'a level'}`, 2, 2);
    return Array.isArray(rows) ? rows.map(([mhz, v]) => ({ hz: mhz * 1e6, [value]: v })) : rows;
  };
  const read = $derived.by((): { thing: unknown; says: string } => {
    if (what === 'corrections') {
      const got = points(text, 'db');
      if (!Array.isArray(got)) return { thing: null, says: got.fault };
      return {
        thing: got.length ? { name, kind, measured, expanded, points: got } : null,
        says: `${got.length} points`,
      };
    }
    const lines: unknown[] = [];
    const counts: string[] = [];
    for (const detector of LIMIT_DETECTORS)
      for (const part of texts[detector].split(/\n\s*\n/).filter((t) => t.trim())) {
        const got = points(part, 'level');
        if (!Array.isArray(got)) return { thing: null, says: `${detector}: ${got.fault}` };
        lines.push({ detector, points: got });
        counts.push(`${detector} ${got.length}`);
      }
    return { thing: lines.length ? { name, lines } : null, says: counts.length ? `points: ${counts.join(', ')}` : 'One point a line; a blank line begins another line.' }; // prettier-ignore
  });
  function showCorrection(c: Correction) {
    ({ name, kind, measured, expanded } = c);
    text = c.points.map((p) => `${p.hz / 1e6}\t${p.db}`).join('\n');
    says = '';
  }
  function showLimits(l: LimitSet) {
    name = l.name;
    for (const detector of LIMIT_DETECTORS)
      texts[detector] = l.lines
        .filter((x) => x.detector === detector)
        .map((x) => x.points.map((p) => `${p.hz / 1e6}\t${p.level}`).join('\n'))
        .join('\n\n');
    says = '';
  }
  async function doing(work: () => Promise<unknown>, done: string) {
    try {
      await work();
      says = done;
    } catch (error) {
      const fault = faultText(error);
      says = [fault.what, fault.why].filter(Boolean).join(' ');
    }
  }
  const keep = () =>
    doing(async () => {
      if (what === 'corrections')
        changed({
          corrections: await call('PUT /api/radio/corrections', { body: read.thing as Correction }),
        });
      else changed({ limits: await call('PUT /api/radio/limits', { body: read.thing as LimitSet }) });
    }, `${name} is kept.`);
  const drop = (of: string) =>
    doing(async () => {
      const params = { name: of };
      if (what === 'corrections')
        changed({ corrections: await call('DELETE /api/radio/corrections/[name]', { params }) });
      else changed({ limits: await call('DELETE /api/radio/limits/[name]', { params }) });
    }, `${of} was taken away.`);
  async function file(e: Event & { currentTarget: HTMLInputElement }) {
    const picked = e.currentTarget.files?.[0];
    if (picked) text = await picked.text();
    e.currentTarget.value = '';
  }
</script>

<Dialog bind:open title="Tables and limits" size="lg">
  <div class="choose" role="radiogroup" aria-label="What is kept">
    {#each [['corrections', 'Tables of correction'], ['limits', 'Limits']] as const as [key, label] (key)}
      <button
        type="button"
        role="radio"
        aria-checked={what === key}
        onclick={() => {
          what = key;
          name = says = '';
        }}>{label}</button
      >
    {/each}
  </div>
  <div class="columns">
    <ul>
      {#if what === 'corrections'}
        {#each corrections as c (c.name)}
          <li>
            <button type="button" class="dotted" onclick={() => showCorrection(c)}>{c.name}</button>
            <span class="muted"
              >{c.kind}, {c.points.length} points, ± {c.expanded} dB{c.measured
                ? `, ${c.measured}`
                : ''}</span
            >
            <button type="button" class="quiet" onclick={() => void drop(c.name)}>take away</button>
          </li>
        {:else}<li class="muted">
            None is kept yet: cables, attenuators, amplifiers, antennas, networks and probes.
          </li>{/each}
      {:else}
        {#each limits as l (l.name)}
          <li>
            <button type="button" class="dotted" onclick={() => showLimits(l)}>{l.name}</button>
            <span class="muted">{l.lines.map((x) => x.detector).join(', ')}</span>
            <button type="button" class="quiet" onclick={() => void drop(l.name)}>take away</button>
          </li>
        {:else}<li class="muted">None are kept yet.</li>{/each}
      {/if}
    </ul>
    <form
      onsubmit={(e) => {
        e.preventDefault();
        void keep();
      }}
    >
      <label>Name <input class="plain" bind:value={name} maxlength="60" required /></label>
      {#if what === 'corrections'}
        <label
          >Kind <select class="plain" bind:value={kind}>
            {#each CORRECTION_KINDS as k (k)}<option>{k}</option>{/each}
          </select></label
        >
        <label>Measured <DayField bind:value={measured} label="Measured" /></label>
        <label
          >± at 95 %, dB <input
            class="plain"
            type="number"
            step="any"
            min="0"
            max="20"
            bind:value={expanded}
          /></label
        >
        <label class="wide"
          >MHz and dB{kind === 'antenna factor' ? '/m' : kind === 'current probe' ? 'Ω' : ''}
          <textarea rows="9" bind:value={text} placeholder="30  14.2"></textarea></label
        >
      {:else}
        {#each LIMIT_DETECTORS as detector (detector)}
          <label class="wide"
            >For the {detector}: MHz and level, in the unit that is measured in
            <textarea
              rows="4"
              bind:value={texts[detector]}
              placeholder={detector === 'quasi-peak' ? '30  40' : ''}></textarea></label
          >
        {/each}
      {/if}
      <p class="muted" role="status">{says || read.says}</p>
      <div class="acts">
        {#if what === 'corrections'}
          <label class="file"
            ><span class="dotted">Read CSV</span><input
              type="file"
              accept=".csv,.txt,text/*"
              onchange={file}
            /></label
          >
        {/if}
        <Button size="sm" type="submit" disabled={read.thing === null}>Keep it</Button>
      </div>
    </form>
  </div>
</Dialog>

<style>
  .choose {
    display: flex;
    gap: var(--space-4);
    margin-bottom: var(--space-3);
  }
  .choose button {
    color: var(--muted);
    border-bottom: 2px solid transparent;
  }
  .choose [aria-checked='true'] {
    color: var(--ink);
    font-weight: 600;
    border-bottom-color: var(--plum);
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr);
    gap: var(--space-5);
  }
  ul,
  form {
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
  }
  li {
    display: flex;
    flex-wrap: wrap;
    gap: 0 var(--space-2);
    align-items: baseline;
  }
  label {
    display: grid;
    grid-template-columns: 120px 1fr;
    align-items: center;
    gap: var(--space-2);
  }
  .wide {
    grid-template-columns: 1fr;
  }
  textarea {
    font-family: var(--font-mono);
    font-size: var(--type-small);
    background: var(--card);
    color: inherit;
    border: 1px solid var(--line);
    border-radius: var(--radius);
  }
  .quiet,
  p {
    font-size: var(--type-small);
    color: var(--muted);
  }
  .acts {
    display: flex;
    justify-content: flex-end;
    align-items: center;
    gap: var(--space-3);
  }
  .file {
    display: block;
    margin-right: auto;
    cursor: pointer;
  }
  .file .dotted {
    white-space: nowrap;
  }
  .file input {
    position: absolute;
    opacity: 0;
    width: 1px;
  }
</style>
