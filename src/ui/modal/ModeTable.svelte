<script lang="ts">
  import type { ModeView, ModesView, PickedMode, Suggestion } from '$contract/modal';
  import { digitsFor, frequencyText } from './words';

  type Props = {
    modes: ModesView | null;
    /** ± over blocks of the span is on its way. */
    spreading: boolean;
    suggested: readonly Suggestion[];
    lost: readonly PickedMode[];
    chosen: number;
    beside: readonly number[];
    choose: (k: number, also: boolean) => void;
    change: (picks: PickedMode[]) => void;
  };
  let { modes, spreading, suggested, lost, chosen, beside, choose, change }: Props = $props();

  const rows = $derived(modes?.modes ?? []);
  const open = $derived(suggested.filter((s) => !s.harmonic.is && !rows.some((m) => Math.abs(m.hz / s.hz - 1) < 0.003))); // prettier-ignore
  const plain = (m: ModeView): PickedMode => ({ order: m.order, index: m.index, hz: m.hz, damping: m.damping, name: m.name, out: m.out }); // prettier-ignore
  const all = () => rows.map(plain);
  const takeAll = () =>
    change([...all(), ...open.map(({ order, index, hz, damping }) => ({ order, index, hz, damping, name: '', out: false }))]); // prettier-ignore
  const tones = $derived(modes?.tones ?? suggested.filter((s) => s.harmonic.is).map((s) => ({ hz: s.hz, damping: s.damping, ...s.harmonic }))); // prettier-ignore
</script>

<div class="rows">
  {#if rows.length === 0}
    <p class="none muted">
      {#if open.length}No mode yet. Click a pole, drag over a column, or
        <button class="dotted" onclick={takeAll}>take all {open.length} that are suggested</button>.
      {:else}No pole has come to rest: more poles, another band or wider tolerances may help.{/if}
    </p>
  {:else}
    <table class="plain">
      <thead>
        <tr>
          <th>Mode</th><th class="num">Hz</th><th class="num">damping, %</th><th class="num">realness</th><th
            >seen as</th
          ><th><span class="hidden">what is done with it</span></th>
        </tr>
      </thead>
      <tbody>
        {#each rows as m, k (`${m.order} ${m.index}`)}
          <tr
            class:chosen={k === chosen}
            class:beside={beside.includes(k)}
            class:left={m.out}
            onclick={(e) => choose(k, e.ctrlKey || e.metaKey || e.shiftKey)}
          >
            <td
              ><button class="number" aria-pressed={k === chosen} aria-label="Mode {k + 1}">{k + 1}</button
              >{#if m.harmonic.is}<span
                  class="harmonic"
                  title="Kurtosis {m.harmonic.kurtosis?.toFixed(2)}: a steady tone has 1.5, noise 3"
                  >harmonic{m.harmonic.multiple ? ` ${m.harmonic.multiple}` : ''}</span
                >{/if}</td
            >
            <td class="num">{frequencyText(m.hz, m.expanded.hz)}</td>
            <td class="num"
              >{digitsFor(100 * m.damping, m.expanded.damping === null ? null : 100 * m.expanded.damping)}</td
            >
            <td class="num" title="Mean phase deviation {((m.phaseDeviation * 180) / Math.PI).toFixed(1)}°"
              >{m.realness.toFixed(2)}</td
            >
            <td
              ><input
                class="name"
                aria-label="What mode {k + 1} is seen as"
                maxlength="80"
                placeholder="name it"
                value={m.name}
                onclick={(e) => e.stopPropagation()}
                onchange={(e) =>
                  change(all().map((p, i) => (i === k ? { ...p, name: e.currentTarget.value } : p)))}
              /></td
            >
            <td class="acts">
              <span>
                {#if k === chosen || m.out}
                  <button
                    class="dotted"
                    onclick={(e) => {
                      e.stopPropagation();
                      change(all().map((p, i) => (i === k ? { ...p, out: !p.out } : p)));
                    }}>{m.out ? 'put back' : 'leave out'}</button
                  >
                {/if}
                {#if k === chosen}
                  <button
                    class="dotted"
                    aria-label="Let mode {k + 1} go"
                    onclick={(e) => {
                      e.stopPropagation();
                      change(all().filter((_, i) => i !== k));
                    }}>let go</button
                  >
                {/if}
              </span></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    {#if spreading}<p class="more muted" role="status">
        ± over blocks of the span is on its way; so far it is that over orders.
      </p>{/if}
    {#if open.length}<p class="more muted">
        Also suggested: {open.map((s) => `${s.hz.toFixed(2)} Hz`).join(', ')} ·
        <button class="dotted" onclick={takeAll}
          >take {open.length === 1 ? 'it' : `all ${open.length}`}</button
        >
      </p>{/if}
  {/if}
  {#if tones.length}<p class="more muted">
      Kept apart as {tones.length === 1 ? 'a harmonic' : 'harmonics'} of what turns: {tones
        .map((t) => `${t.hz.toFixed(2)} Hz${t.multiple ? ` (${t.multiple} × the speed)` : ''}`)
        .join(', ')}.
    </p>{/if}
  {#if lost.length}<p class="more lost">
      Not found again: {lost.map((p) => `${p.name || 'a mode'} at ${p.hz.toFixed(2)} Hz`).join(', ')}.
    </p>{/if}
</div>

<style>
  .rows {
    overflow: auto;
    padding: var(--space-2) var(--space-3);
    min-height: 0;
    flex: 1;
  }
  thead th {
    position: sticky;
    top: calc(-1 * var(--space-2));
    background: var(--card);
    z-index: 1;
  }
  tbody tr {
    cursor: pointer;
  }
  .chosen td {
    background: var(--tint);
  }
  .beside td:first-child {
    border-left: 2px solid var(--plum);
  }
  .left td {
    color: var(--muted);
  }
  .number {
    font-weight: 600;
    min-width: 24px;
    min-height: 24px;
    text-align: left;
  }
  .harmonic {
    color: var(--ochre);
    font-size: var(--type-fine);
  }
  .name {
    font: inherit;
    width: 100%;
    min-width: 90px;
    border: 0;
    padding: 0;
    background: none;
    color: inherit;
    border-bottom: 1px dotted transparent;
  }
  .name:hover,
  .name:focus {
    border-bottom-color: var(--plum);
  }
  td:nth-child(5) {
    width: 50%;
  }
  .acts {
    position: relative;
    width: 0;
    padding: 0;
    white-space: nowrap;
    text-align: right;
    font-size: var(--type-small);
  }
  /* Over the name, which needs the room. */
  .acts span {
    position: absolute;
    right: 0;
    top: 0;
    bottom: 0;
    display: flex;
    gap: var(--space-2);
    align-items: center;
    background: var(--card);
  }
  .chosen .acts span {
    background: var(--tint);
  }
  .none,
  .more {
    margin: var(--space-2) 0 0;
    font-size: var(--type-small);
  }
  .lost {
    color: var(--ochre);
  }
  .hidden {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
</style>
