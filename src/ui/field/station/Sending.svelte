<!-- Sending a programme: four steps, seen at once, with what each will do and what it did. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { STEPS, type StationView } from '$contract/station';
  import { call } from '../../api';
  import { momentText } from './words';

  type Props = {
    station: StationView;
    text: string;
    faulty: boolean;
    doing: (act: () => Promise<unknown>) => Promise<boolean>;
  };
  let { station, text, faulty, doing }: Props = $props();

  let busy = $state(false);
  let without = $state(false);
  let why = $state('');
  const { sending } = $derived(station);
  /** One that somebody sends now. */
  const active = $derived(sending !== null && sending.step !== 'done' && sending.failed === null);
  const same = $derived(text === station.runs);
  const next = $derived(station.versions.find((v) => v.text === text)?.number ?? (station.versions[0]?.number ?? 0) + 1); // prettier-ignore
  /** What sending erases: rows that are there, with their times. */
  const held = $derived(station.tables.filter((t) => t.end > t.first));
  const unfetched = $derived(station.tables.reduce((sum, t) => sum + Math.max(0, t.end - Math.max(t.first, t.fetched)), 0)); // prettier-ignore
  const current = $derived(
    sending && (busy || active || sending.failed || sending.version === next) ? sending : null,
  );
  const at = $derived(current ? (current.step === 'done' ? 4 : STEPS.indexOf(current.step)) : -1);
  const thermo = $derived(
    station.live?.values.some((v) => v.way === 'thermocouple' || v.way === 'resistance'),
  );
  const TITLES = ['Fetch first', 'Send', 'Check', 'See it live'];
  const idle = $derived(same && !current);
  const says = $derived([
    current?.said.fetch ?? (without ? 'left out' : idle || !station.state ? 'what the station holds' : unfetched ? `${unfetched} rows that are not fetched yet` : 'all that it holds is fetched'), // prettier-ignore
    current?.said.send ?? (idle ? 'erases what the station holds' : held.length ? `erases ${held.map((t) => `${t.end - t.first} rows of ${t.name} since ${momentText(t.oldestMs!)}`).join(', ')}` : 'it holds nothing that would be erased'), // prettier-ignore
    current?.said.compile ?? 'the station compiles it and answers',
    idle
      ? 'whether each sensor does what it should'
      : thermo
        ? 'warm a sensor by hand: it rises; one that falls is wired the wrong way round; no number is a broken wire'
        : 'values now: no number is a broken wire',
  ]);
  async function send() {
    busy = true;
    await doing(() => call('POST /api/field/stations/[id]/send', { params: { id: station.id }, body: { text, ...(without && { withoutFetching: why }) } })); // prettier-ignore
    busy = false;
    without = false;
  }
</script>

<section class="card pad" data-testid="sending">
  <h2>{same ? `Version ${next} runs` : `Sending version ${next}`}</h2>
  <ol>
    {#each TITLES as title, k (title)}
      {@const failed = current?.failed && k === at}
      <li class:done={k < at} class:now={k === at && !failed} class:failed data-step={STEPS[k]}>
        <span class="n" aria-hidden="true">{k < at ? '✓' : failed ? '!' : k + 1}</span>
        <div>
          <strong>{title}</strong>
          <p class="muted">{says[k]}</p>
          {#if failed}<p class="bad">{current?.failed}</p>{/if}
          {#if k === 2 && current}
            {#each current.remarks as r (r.says + r.line)}<p class={r.bad ? 'bad' : 'warning'}>
                {r.line ? `line ${r.line}: ` : ''}{r.says}
              </p>{/each}
          {/if}
        </div>
      </li>
    {/each}
  </ol>
  {#if without}
    <label class="why"
      >Why not fetch first? <input class="plain" bind:value={why} aria-label="Why not fetch first" /></label
    >
  {/if}
  <Button
    size="sm"
    disabled={busy || active || faulty || same || (without && why.trim().length < 3)}
    onclick={() => void send()}
    >{busy || active ? 'Sending …' : without ? 'Send without fetching' : 'Fetch and send'}</Button
  >
  {#if !same && held.length}<button class="dotted" onclick={() => (without = !without)}
      >{without ? 'fetch first after all' : 'without fetching'}</button
    >{/if}
  {#if faulty}<p class="bad">It has errors: they stand where they are.</p>{/if}
</section>

<style>
  .pad {
    padding: var(--space-3) var(--space-4);
  }
  ol {
    list-style: none;
    margin: var(--space-2) 0;
    padding: 0;
    display: grid;
    gap: var(--space-2);
  }
  li {
    display: grid;
    grid-template-columns: 1.6rem 1fr;
    gap: var(--space-2);
  }
  li p {
    margin: 0;
    font-size: var(--type-small);
  }
  .n {
    width: 1.5rem;
    height: 1.5rem;
    border-radius: var(--radius);
    border: 1px solid var(--line);
    color: var(--muted);
    display: grid;
    place-items: center;
    font-size: var(--type-small);
  }
  .done .n {
    background: var(--moss);
    border-color: var(--moss);
    color: var(--on-fill);
  }
  .now .n {
    background: var(--plum-fill);
    border-color: var(--plum-fill);
    color: var(--on-fill);
  }
  .failed .n {
    border-color: var(--red);
    color: var(--red);
  }
  .bad {
    color: var(--red);
  }
  .warning {
    color: var(--ochre);
  }
  .why {
    display: grid;
    gap: var(--space-1);
    margin-bottom: var(--space-2);
  }
</style>
