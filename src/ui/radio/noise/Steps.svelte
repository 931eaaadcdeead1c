<!-- The steps of a noise figure, each done, running or to come, any of them again; below them the table and what was measured before. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { fixed } from '$core/readings';
  import { secondsText } from '$core/radio/words';
  import type { NoiseResult, NoiseState, NoiseView } from '$contract/radio-noise';
  import type { NoiseDesk } from './noise-desk.svelte';

  type Props = { desk: NoiseDesk; view: NoiseView; others: NoiseResult[]; behind: string[] };
  let { desk, view, others, behind }: Props = $props();

  const driven = $derived(view.settings.drive !== null);
  /** Each step with its buttons: by hand one for each state, with a driven source one for both. */
  const steps = $derived([
    {
      n: 1,
      name: 'Source straight into the receiver',
      says: driven ? 'it is switched on, then off' : 'on, then off: the receiver’s own noise',
      states: ['own on', 'own off'] as NoiseState[],
    },
    {
      n: 2,
      name: 'Put the device between them',
      says: driven ? 'the source is switched off, then on' : 'the source off',
      states: (driven ? ['through off', 'through on'] : ['through off']) as NoiseState[],
    },
    ...(driven
      ? []
      : [{ n: 3, name: 'Switch the source on', says: '', states: ['through on'] as NoiseState[] }]),
  ]);
  const done = (states: NoiseState[]) =>
    states[0].startsWith('own')
      ? view.own !== null && view.stale.length === 0
      : states.every((s) => view.done[s] === view.hz.length);
  const runs = (states: NoiseState[]) => view.running !== null && states.includes(view.running.state);
  const whether = {
    'own on': 'It is on',
    'own off': 'It is off',
    'through off': 'It is off',
    'through on': 'It is on',
  };
  const rest = (leftS: number) =>
    Number.isFinite(leftS)
      ? `measuring, some ${secondsText(Math.max(1, Math.round(leftS)))} to go`
      : 'measuring';
  const cell = (v: number | null, decimals = 2) =>
    v === null || !Number.isFinite(v) ? '—' : fixed(v, decimals);
</script>

<section class="card steps" aria-label="Steps">
  <ol>
    {#each steps as step (step.n)}
      {@const now = desk.step === step.n || (driven && step.n === 2 && desk.step === 3)}
      <li class:now aria-current={now ? 'step' : undefined}>
        <span class="n" class:done={done(step.states) && !runs(step.states)}
          >{done(step.states) && !runs(step.states) ? '✓' : step.n}</span
        >
        <div>
          <b>{step.name}</b>
          <p class="muted">{runs(step.states) ? rest(view.running!.leftS) : step.says}</p>
          {#if !view.running && !view.fault}
            <p class="acts">
              {#each driven ? [step.states] : step.states.map((s) => [s]) as states (states[0])}
                {@const whole = states.every((x) => view.done[x] === view.hz.length)}
                {#if now && !whole}
                  <Button size="xs" onclick={() => void desk.measure(states)}
                    >{driven ? 'Measure' : `${whether[states[0]]}: measure`}</Button
                  >
                {:else}
                  <button
                    type="button"
                    class="dotted again"
                    disabled={step.n > 1 && desk.step === 1}
                    onclick={() => void desk.measure(states)}
                    >{driven ? 'measure again' : `${whether[states[0]].toLowerCase()}: measure again`}</button
                  >
                {/if}
              {/each}
            </p>
          {/if}
        </div>
        <span class="count mono">
          {#if runs(step.states)}{view.done[view.running!.state]} of {view.hz.length}
          {:else if step.states.some((s) => view.done[s] > 0) || done(step.states)}
            {done(step.states) ? view.hz.length : Math.max(...step.states.map((s) => view.done[s]))} points{/if}
        </span>
      </li>
    {/each}
    <li class:now={desk.step === 4}>
      <span class="n" class:done={desk.step === 4}>{desk.step === 4 ? '✓' : steps.length + 1}</span>
      <div>
        <b>Read it</b>
        <p class="muted">another device needs step 2{driven ? '' : ' and 3'} only</p>
      </div>
    </li>
  </ol>
  {#if view.running}
    <p class="acts"><Button size="xs" color="alternative" onclick={() => void desk.stop()}>Stop</Button></p>
  {/if}
  {#if view.fault}<p class="ochre">{view.fault}</p>{/if}
  {#if desk.point?.findings.length}
    <p class="ochre">
      {fixed(desk.point.hz / 1e6, 1)} MHz: {desk.point.findings.map((f) => f.says).join('; ')}.
    </p>
  {/if}
  <div class="scroll">
    <table class="plain">
      <thead>
        <tr
          ><th class="num">MHz</th><th class="num">NF, dB</th><th class="num">±</th><th class="num"
            >gain, dB</th
          ><th class="num">Y, dB</th></tr
        >
      </thead>
      <tbody>
        {#each view.points as p, k (p.hz)}
          {#if view.points.length <= 400 || p.figureDb !== null}
            <tr
              class:here={k === desk.at}
              class:left={p.findings.some((f) => f.leaves)}
              onclick={() => (desk.at = k)}
            >
              <td class="num">{fixed(p.hz / 1e6, Number.isInteger(p.hz / 1e6) ? 0 : 2)}</td>
              <td class="num">{cell(p.figureDb)}</td>
              <td class="num">{cell(p.figureDb === null ? null : p.figureExpanded)}</td>
              <td class="num">{cell(p.gainDb)}</td>
              <td class="num">{cell(10 * Math.log10(p.y), 1)}</td>
            </tr>
          {/if}
        {/each}
      </tbody>
    </table>
    {#if others.length}
      <h2>Measured before</h2>
      <ul>
        {#each others.slice().reverse() as r (r.id)}
          <li>
            <label>
              <input
                type="checkbox"
                checked={behind.includes(r.id)}
                onchange={(e) =>
                  (desk.behind = e.currentTarget.checked
                    ? [...behind, r.id]
                    : behind.filter((id) => id !== r.id))}
              />
              {r.device}</label
            >
            <span class="muted">{new Date(r.atMs).toTimeString().slice(0, 5)}, {r.points.length} points</span>
            <button type="button" class="quiet" onclick={() => void desk.drop(r.id)}>take away</button>
          </li>
        {/each}
      </ul>
    {/if}
  </div>
</section>

<style>
  .steps {
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
    min-height: 0;
    padding: var(--space-2) var(--space-4);
  }
  ol li {
    display: grid;
    grid-template-columns: 24px minmax(0, 1fr) auto;
    gap: var(--space-3);
    padding-block: var(--space-2);
    border-bottom: 1px solid var(--hair);
  }
  .n {
    width: 20px;
    height: 20px;
    border-radius: 50%;
    border: 1px solid var(--line);
    display: grid;
    place-content: center;
    font-size: var(--type-fine);
    font-weight: 600;
    color: var(--muted);
  }
  .now .n {
    background: var(--plum-fill);
    border-color: var(--plum-fill);
    color: var(--on-fill);
  }
  .n.done {
    background: var(--moss);
    border-color: var(--moss);
    color: var(--card);
  }
  p,
  .count,
  ul {
    font-size: var(--type-small);
  }
  .again {
    font-size: var(--type-small);
    margin-right: var(--space-3);
  }
  .count {
    color: var(--muted);
    white-space: nowrap;
  }
  .acts {
    display: flex;
    gap: var(--space-2);
    margin-top: var(--space-1);
  }
  .ochre {
    color: var(--ochre);
  }
  .scroll {
    flex: 1;
    min-height: 96px;
    overflow-y: auto;
    scrollbar-width: thin;
  }
  table {
    width: 100%;
  }
  tbody tr {
    cursor: pointer;
  }
  .here {
    background: var(--tint);
  }
  .left {
    color: var(--muted);
  }
  h2 {
    margin-top: var(--space-3);
  }
  ul li {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
  }
  .quiet {
    margin-left: auto;
    color: var(--muted);
  }
  .quiet:hover {
    color: var(--plum);
  }
</style>
