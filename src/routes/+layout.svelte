<script lang="ts">
  import '@fontsource-variable/commissioner';
  import '@fontsource-variable/jetbrains-mono';
  import '../app.css';
  import { fieldSays } from '$contract/field-text';
  import { radioSays } from '$contract/radio-text';
  import { goto, invalidate } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { navigating, page } from '$app/state';
  import { onMount, untrack } from 'svelte';
  import { tinykeys } from 'tinykeys';
  import { LiveFeed } from '$ui/live/feed.svelte';
  import { oneAtATime } from '$ui/shell/one-at-a-time';
  import OutgoingBox from '$ui/files/OutgoingBox.svelte';
  import { OutgoingFiles } from '$ui/files/outgoing.svelte';
  import { provideShell } from '$ui/shell/shell.svelte';
  import type { BodyIn } from '$contract/api';
  import { ALL_PARTS, CHANGED_BY, type Part } from '$contract/overview';
  import { Resources } from '$ui/shell/resources.svelte';
  import { call, faultText, type FaultText } from '$ui/api';
  import { takeTag } from '$ui/take/labels';
  import { provideChoices } from '$ui/sentence/choices';
  import { commonOf, roleOf } from '$contract/channel';
  import Late from '$ui/kit/Late.svelte';
  import FaultNote from '$ui/kit/FaultNote.svelte';
  import Palette, { type Find } from '$ui/shell/Palette.svelte';
  import Rail, { type Place } from '$ui/shell/Rail.svelte';
  import TopBar from '$ui/shell/TopBar.svelte';
  import type { LayoutProps } from './$types';

  let { data, children }: LayoutProps = $props();

  let night = $state(false);
  let fault = $state<FaultText | null>(null);
  let armOpen = $state(false);
  let armFault = $state<FaultText | null>(null);
  let findOpen = $state(false);
  let jobOpen = $state(false);
  let keysOpen = $state(false);
  let plusMinus = $state(false);
  let uncertainties = $state.raw<Record<string, number>>({});

  const resources = new Resources(
    () => data,
    (parts, known) => call('GET /api/overview', { query: { parts, known } }),
  );
  const overview = $derived(resources.overview);
  const channels = $derived(overview?.channels ?? []);
  // A page that cannot be fetched is thrown away by the router, and its readings with it: while nobody answers, it stays as it is.
  const answers = () =>
    fetch('/mark.svg', { method: 'HEAD', cache: 'no-store' }).then(
      ({ ok }) => ok,
      () => false,
    );
  // One that overtakes another would make it end before what it fetches is there; one that begins while a page is being opened would throw
  // the opening away. Whoever waited for one and goes elsewhere then has a moment to begin.
  const refreshPage = oneAtATime(async () => {
    // Some pages show nothing but what all of them do.
    while (Object.keys(page.data).some((key) => !(key in data))) {
      await new Promise((resolve) => setTimeout(resolve, 20));
      if (navigating.to) continue;
      const there = await answers();
      if (!there) return;
      // An opening may have begun while it was asked.
      if (!navigating.to) return invalidate('farrier:page');
    }
  });
  /** What cannot be fetched now is fetched once somebody answers again. */
  const fetchParts = (parts: readonly Part[]) => resources.fetch(parts).catch(() => undefined);
  const refresh = async () => void (await Promise.all([fetchParts(ALL_PARTS), refreshPage()]));

  let refreshing: ReturnType<typeof setTimeout> | undefined;
  // What belongs to this page alone is fetched once, however many notes come at a time.
  const refreshPageSoon = () => {
    clearTimeout(refreshing);
    refreshing = setTimeout(() => void refreshPage(), 150);
  };
  function changed(parts: readonly Part[]) {
    void fetchParts(parts);
    refreshPageSoon();
  }
  const feed = new LiveFeed(
    () => changed(ALL_PARTS),
    (note) => note.kind in CHANGED_BY && changed(CHANGED_BY[note.kind]),
    (boardId) => {
      void fetchParts(['boards']);
      if (page.url.pathname.endsWith(boardId)) refreshPageSoon();
    },
  );

  const files = new OutgoingFiles();
  provideShell({
    feed,
    files,
    say: (said) => (fault = said),
    arm,
    refresh,
    get overview() {
      return overview!;
    },
    get night() {
      return night;
    },
    get plusMinus() {
      return plusMinus;
    },
    set plusMinus(on) {
      plusMinus = on;
      localStorage.setItem('farrier-plus-minus', on ? '1' : '');
    },
    expanded: (id) => (plusMinus ? uncertainties[id] : undefined),
  });
  const UNCERTAINTY_MS = 2000;
  $effect(() => {
    if (!plusMinus) return;
    const ids = channels.map((c) => c.id).join();
    const look = async () => {
      if (document.hidden) return;
      uncertainties = await call('GET /api/calibrate/uncertainty', { query: { channels: ids } }).catch(
        () => ({}),
      );
    };
    void look();
    const timer = setInterval(() => void look(), UNCERTAINTY_MS);
    return () => clearInterval(timer);
  });
  provideChoices((field) =>
    channels
      .filter((c) => field !== 'output' || roleOf(c) === 'driven')
      .map((c) => ({ id: c.id, name: c.name, unit: commonOf(c).unit })),
  );

  function arm() {
    armFault = null;
    armOpen = true;
  }
  async function armWith(facts: Record<string, string>, reason: string) {
    try {
      await call('POST /api/record', { body: { do: 'arm', facts, reason } });
      armOpen = false;
      if (!page.url.pathname.startsWith('/record')) void goto(resolve('/record'));
    } catch (error) {
      armFault = faultText(error);
    }
  }
  async function record(body: BodyIn<'POST /api/record'>) {
    try {
      await call('POST /api/record', { body });
      fault = null;
    } catch (error) {
      fault = faultText(error);
    }
  }
  async function undo(again: boolean) {
    try {
      await call('POST /api/undo', { query: { again } });
      await refresh();
    } catch (error) {
      fault = faultText(error);
    }
  }
  function turn(to: boolean) {
    night = to;
    document.documentElement.classList.toggle('dark', to);
    localStorage.setItem('farrier-night', to ? '1' : '');
  }

  /** Where keys mean what is typed; and behind an open dialog nothing is done that one does not see. */
  const typing = (event: KeyboardEvent) =>
    (event.target as HTMLElement).closest(
      'input, textarea, select, [contenteditable=true], [role=dialog]',
    ) !== null || document.querySelector('dialog[open]') !== null;
  const key = (act: () => void) => (event: KeyboardEvent) => {
    if (typing(event)) return;
    event.preventDefault();
    act();
  };

  onMount(() => {
    turn(localStorage.getItem('farrier-night') === '1');
    plusMinus = localStorage.getItem('farrier-plus-minus') === '1';
    feed.open();
    // A page kept by the browser for “back” must not keep its stream.
    const hide = () => feed.close();
    const show = (event: PageTransitionEvent) => event.persisted && location.reload();
    addEventListener('pagehide', hide);
    addEventListener('pageshow', show);
    const state = () => feed.status.state;
    const undoKeys = tinykeys(window, {
      '$mod+k': (event) => {
        event.preventDefault();
        findOpen = true;
      },
      '$mod+z': key(() => void undo(false)),
      '$mod+Shift+z': key(() => void undo(true)),
      '$mod+y': key(() => void undo(true)),
      '?': key(() => (keysOpen = true)),
      'Shift+?': key(() => (keysOpen = true)),
      f: key(() => document.querySelector<HTMLElement>('.comb')?.focus()),
      a: key(() => state() === 'Watching' && arm()),
      s: key(() => state() === 'Armed' && void record({ do: 'start' })),
      e: key(() => state() === 'Recording' && void record({ do: 'end' })),
      r: key(() => void record({ do: 'rest' })),
      q: key(() => void call('POST /api/alarms', { body: { do: 'hush' } }).catch(() => undefined)),
      u: key(() => (plusMinus = !plusMinus)),
    });
    return () => {
      undoKeys();
      removeEventListener('pagehide', hide);
      removeEventListener('pageshow', show);
      feed.close();
    };
  });

  // What was said of another page is not said here.
  $effect(() => {
    void page.url.pathname;
    untrack(() => (fault = null));
  });

  const answering = $derived(feed.status.units.filter((u) => u.answering).length);
  const places = $derived.by((): Place[] => {
    if (!overview) return [];
    const count = (role: string) => channels.filter((c) => roleOf(c) === role).length;
    const { takes, studies } = overview;
    const units = feed.status.units.length;
    const finished = takes.find((t) => t.state !== 'recording');
    return [
      {
        path: '/rig',
        name: 'Rig',
        says:
          units === 0
            ? 'no unit yet'
            : answering === units
              ? `${units} unit${units > 1 ? 's' : ''}, all answering`
              : `${answering} of ${units} answering`,
        urgent: answering < units,
      },
      {
        path: '/channels',
        name: 'Channels',
        says: `${count('measured')} measured, ${count('driven')} driven`,
      },
      {
        path: '/calibrate',
        name: 'Calibrate',
        says: overview.unproven ? `${overview.unproven} due before a take` : 'nothing is due',
        urgent: overview.unproven > 0,
      },
      { path: '/record', name: 'Record', says: `plan “${overview.plan.name}”` },
      {
        path: '/inspect',
        name: 'Inspect',
        says: overview.taken.count === 1 ? '1 take' : `${overview.taken.count} takes`,
      },
      {
        path: '/study',
        name: 'Study',
        says: `${studies.count} ${studies.count === 1 ? 'study' : 'studies'}${studies.outOfDate ? `, ${studies.outOfDate} out of date` : ''}`,
        urgent: studies.outOfDate > 0,
      },
      { path: '/report', name: 'Report', says: finished ? `for ${finished.name}` : 'needs a take' },
      { path: '/radio', name: 'Radio', ...radioSays(feed.status.units) },
      { path: '/field', name: 'Field', ...fieldSays(overview.field) },
      { path: '/logbook', name: 'Logbook', says: feed.notes.at(-1)?.says ?? 'kept by itself' },
    ];
  });
  const finds = $derived.by((): Find[] => [
    ...places.map((p) => ({ kind: 'place', name: p.name, go: () => void goto(resolve(p.path)) })),
    ...channels.map((c) => ({
      kind: 'channel',
      name: c.name,
      go: () => void goto(resolve(`/channels#${c.id}`)),
    })),
    ...(overview?.takes ?? []).map((t) => ({
      kind: 'take',
      name: t.name,
      about: [t.folder, takeTag(t)].filter(Boolean).join(' · '),
      go: () => void goto(resolve(`/inspect/${t.id}`)),
    })),
    ...(overview?.boards ?? []).map((b) => ({
      kind: 'board',
      name: b.name,
      go: () => void goto(resolve('/record/boards/[id]', { id: b.id })),
    })),
    { kind: 'place', name: 'Spreadsheets', go: () => void goto(resolve('/report/spreadsheets')) },
    { kind: 'place', name: 'For programs', go: () => void goto(resolve('/programs')) },
    { kind: 'action', name: 'Arm a take', go: arm },
    { kind: 'action', name: 'All outputs to rest', go: () => void record({ do: 'rest' }) },
    { kind: 'action', name: night ? 'Day bench' : 'Night bench', go: () => turn(!night) },
    {
      kind: 'action',
      name: plusMinus ? 'Hide the uncertainty of readings' : 'Show the uncertainty of readings',
      go: () => (plusMinus = !plusMinus),
    },
    { kind: 'action', name: 'Undo the last change', go: () => void undo(false) },
  ]);
</script>

<svelte:head><title>{overview ? `${overview.job.name} · Farrier` : 'Farrier'}</title></svelte:head>

{#if !overview}
  {@render children()}
{:else}
  <a class="skip" href="#page">Skip to the page</a>
  <div class="frame" class:stale={feed.stale}>
    <TopBar
      job={overview.job}
      {channels}
      startsByHand={overview.plan.plan.start === 'by hand'}
      onjob={() => (jobOpen = true)}
      act={(what) => void record({ do: what })}
    />
    <div class="below">
      <Rail {places} {night} ontheme={() => turn(!night)} />
      <main id="page" tabindex="-1">
        {#if fault}<div class="said"><FaultNote {fault} onclose={() => (fault = null)} /></div>{/if}
        {@render children()}
      </main>
    </div>
  </div>
  <Late wanted={armOpen} part={() => import('$ui/shell/ArmForm.svelte')}>
    {#snippet children(ArmForm)}
      <ArmForm
        bind:open={armOpen}
        name={overview.plan.name}
        plan={overview.plan.plan}
        serials={overview.sensors.serials}
        last={overview.lastFacts}
        number={overview.taken.next}
        fault={armFault}
        arm={(facts, reason) => void armWith(facts, reason)}
      />
    {/snippet}
  </Late>

  <OutgoingBox {files} />
  <Palette bind:open={findOpen} {finds} />

  <Late wanted={jobOpen} part={() => import('$ui/shell/JobDialog.svelte')}>
    {#snippet children(JobDialog)}
      <JobDialog
        bind:open={jobOpen}
        jobs={overview.jobs}
        current={overview.job.id}
        changed={() => void refresh()}
      />
    {/snippet}
  </Late>

  <Late wanted={keysOpen} part={() => import('$ui/shell/KeysHelp.svelte')}>
    {#snippet children(KeysHelp)}
      <KeysHelp bind:open={keysOpen} path={page.url.pathname} />
    {/snippet}
  </Late>
{/if}

<style>
  .skip {
    position: fixed;
    top: -60px;
    left: 12px;
    z-index: 90;
    background: var(--plum-fill);
    color: var(--on-fill);
    padding: var(--space-2) var(--space-3);
    border-radius: var(--radius);
  }
  .skip:focus {
    top: 10px;
  }
  main:focus {
    outline: none;
  }
  .frame {
    display: flex;
    flex-direction: column;
    height: 100dvh;
    overflow: hidden;
  }
  .below {
    display: flex;
    flex: 1;
    min-height: 0;
  }
  main {
    flex: 1;
    min-width: 0;
    min-height: 0;
    display: flex;
    flex-direction: column;
    overflow: auto;
  }
  .said {
    padding: var(--space-3) var(--space-5) 0;
  }
</style>
