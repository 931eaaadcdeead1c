<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { Button } from 'flowbite-svelte';
  import type { FrameFinding } from '$core/wireframe/check';
  import type { AnalysisLine } from '$contract/modal';
  import type { Overview } from '$contract/overview';
  import type { NamedFrame } from '$contract/wireframe';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    overview: Overview;
    analyses: AnalysisLine[];
    frames: { frame: NamedFrame; findings: FrameFinding[] }[];
  };
  let { overview, analyses, frames }: Props = $props();
  const shell = useShell();
  const takes = $derived(overview.takes.filter((t) => t.state !== 'recording'));
  let take = $state('');
  let busy = $state(false);
  async function act(work: () => Promise<unknown>) {
    busy = true;
    try {
      await work();
    } catch (error) {
      shell.say(faultText(error));
    } finally {
      busy = false;
    }
  }
  const begin = () =>
    act(async () => {
      const made = await call('POST /api/modal', { body: { takes: [take || takes[0].id], frame: frames[0]?.frame.id ?? null } }); // prettier-ignore
      await goto(resolve(`/study/modal/${made.id}`), { invalidateAll: true });
    });
  const frame = () =>
    act(async () => {
      const used = new Set(frames.map((f) => f.frame.name));
      let name = 'Wireframe';
      for (let k = 2; used.has(name); k++) name = `Wireframe ${k}`;
      const made = await call('POST /api/wireframes', { body: { name, points: [], lines: [], surfaces: [], sensors: [] } }); // prettier-ignore
      await goto(resolve(`/study/modal/frames/${made.frame.id}`), { invalidateAll: true });
    });
  const STATES: Record<string, string> = { new: '○ not computed', correlating: '… correlating', fitting: '… fitting', done: '✓ done', failed: '◆ failed', cancelled: '○ cancelled' }; // prettier-ignore
</script>

<div class="page">
  <div class="page-head">
    <h1>How structures move</h1>
    <span class="aside">modal analysis of what shakes in its own work, is struck, or is shaken</span>
    <div class="actions">
      <Button size="sm" color="alternative" disabled={busy} onclick={() => void frame()}
        >A new wireframe</Button
      >
      {#if takes.length}
        <select
          class="plain"
          value={take || takes[0].id}
          onchange={(e) => (take = e.currentTarget.value)}
          aria-label="Take to begin with"
          >{#each takes as t (t.id)}<option value={t.id}>{t.name}</option>{/each}</select
        >
        <Button size="sm" disabled={busy} onclick={() => void begin()}>Begin an analysis</Button>
      {/if}
    </div>
  </div>
  <div class="both">
    <section aria-label="Analyses">
      <h2>Analyses</h2>
      {#if analyses.length === 0}
        <Empty
          says={takes.length
            ? 'Choose a take with accelerometers: its responses are correlated with references, and poles come to rest.'
            : 'Modal analyses are made from takes. Record or bring one in first.'}
        />
      {/if}
      {#each analyses as a (a.id)}
        <a class="card" href={resolve(`/study/modal/${a.id}`)}>
          <h3>{a.name}</h3>
          <p class="muted">
            from {a.takes.join(', ')} · {a.sets === 1 ? 'one set' : `${a.sets} sets`} · {a.modes === 1
              ? 'one mode'
              : `${a.modes || 'no'} modes`}
          </p>
          <span class="state" class:failed={a.state === 'failed'}>{STATES[a.state]}</span>
        </a>
      {/each}
    </section>
    <section aria-label="Wireframes">
      <h2>Wireframes</h2>
      {#if frames.length === 0}
        <Empty says="A wireframe shows shapes where they are: points, lines, and the sensors on them." />
      {/if}
      {#each frames as { frame: f, findings } (f.id)}
        <a class="card" href={resolve(`/study/modal/frames/${f.id}`)}>
          <h3>{f.name}</h3>
          <p class="muted">{f.points.length} points, {f.lines.length} lines, {f.sensors.length} sensors</p>
          <span class="state" class:failed={findings.some((x) => x.severe)} class:late={findings.length}
            >{findings.length ? `◆ ${findings[0].says}` : '✓ whole'}</span
          >
        </a>
      {/each}
    </section>
  </div>
</div>

<style>
  .both {
    display: grid;
    grid-template-columns: 1.3fr 1fr;
    gap: var(--space-6);
    overflow: auto;
  }
  section {
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
    min-width: 0;
  }
  h2 {
    margin: 0;
  }
  h3 {
    font-weight: 600;
  }
  a {
    padding: var(--space-3) var(--space-4);
    position: relative;
  }
  a:hover {
    border-color: var(--plum);
  }
  p {
    margin: 0;
    font-size: var(--type-small);
  }
  .state {
    font-size: var(--type-small);
    color: var(--moss);
  }
  .state.late {
    color: var(--ochre);
  }
  .state.failed {
    color: var(--red);
  }
</style>
