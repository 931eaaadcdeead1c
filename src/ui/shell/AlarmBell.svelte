<!-- Alarms in the top bar: how many nobody has acknowledged, their sound, and the list where each is dealt with. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { onMount } from 'svelte';
  import type { Alarm } from '$contract/alarm';
  import type { BodyIn } from '$contract/api';
  import { call, faultText } from '../api';
  import { useShell } from './shell.svelte';

  const shell = useShell();
  const { feed } = shell;
  let open = $state(false);
  let box = $state<HTMLElement>();

  const shelved = $derived(new Set(feed.alarms.shelved.map((s) => s.source)));
  const waiting = $derived(feed.alarms.open.filter((a) => a.takenAt === null));
  const loud = $derived(waiting.filter((a) => a.level === 'alarm' && !shelved.has(a.source)));
  const worst = $derived(
    waiting.some((a) => a.level === 'alarm') ? 'alarm' : waiting.length ? 'warning' : 'none',
  );
  const sounding = $derived(loud.length > 0 && !feed.alarms.quiet);

  async function act(body: BodyIn<'POST /api/alarms'>) {
    try {
      await call('POST /api/alarms', { body });
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const time = (ms: number) => new Date(ms).toLocaleTimeString('en-GB');
  const stateText = (a: Alarm) => `since ${time(a.at)}${a.outAt ? `, over ${time(a.outAt)}` : ', still'}`;

  /** Two short tones a second while an alarm is not acknowledged and nobody has silenced it. */
  function beep(context: AudioContext) {
    const gain = context.createGain();
    gain.gain.value = 0.06;
    gain.connect(context.destination);
    for (const [at, hz] of [
      [0, 880],
      [0.16, 660],
    ]) {
      const tone = context.createOscillator();
      tone.frequency.value = hz;
      tone.connect(gain);
      tone.start(context.currentTime + at);
      tone.stop(context.currentTime + at + 0.11);
    }
  }
  $effect(() => {
    if (!sounding) return;
    const context = new AudioContext();
    const timer = setInterval(() => context.state === 'running' && beep(context), 1000);
    return () => {
      clearInterval(timer);
      void context.close();
    };
  });
  onMount(() => {
    const away = (e: PointerEvent) => open && !box?.contains(e.target as Node) && (open = false);
    addEventListener('pointerdown', away);
    return () => removeEventListener('pointerdown', away);
  });
</script>

<div class="bell" bind:this={box}>
  <button
    class="sum {worst}"
    aria-expanded={open}
    aria-label="{waiting.length} alarms or warnings not acknowledged{sounding ? ', sounding' : ''}"
    title="Alarms. Q silences the sound"
    onclick={() => (open = !open)}
    >{worst === 'alarm' ? '■' : worst === 'warning' ? '▲' : '○'}
    <span class="mono">{waiting.length}</span>{sounding ? ' ♪' : ''}</button
  >
  {#if open}
    <div class="list" role="dialog" aria-label="Alarms">
      <div class="head">
        <strong>Alarms</strong>
        {#if sounding}<button class="dotted" onclick={() => void act({ do: 'hush' })}
            >silence <kbd>Q</kbd></button
          >{/if}
        {#if waiting.length > 1}<button class="dotted" onclick={() => void act({ do: 'take', id: null })}
            >acknowledge all</button
          >{/if}
      </div>
      {#each waiting.slice(0, 8) as a (a.id)}
        <div class="one {a.level}">
          <span class="sign">{a.level === 'alarm' ? '■' : '▲'}</span>
          <span class="what">{a.says} <span class="muted">{stateText(a)}</span></span>
          <button class="dotted" onclick={() => void act({ do: 'take', id: a.id })}>acknowledge</button>
        </div>
      {:else}<p class="muted">Nothing waits to be acknowledged.</p>{/each}
      <a class="dotted" href={resolve('/record/alarms')} onclick={() => (open = false)}>all alarms</a>
    </div>
  {/if}
</div>

<style>
  .bell {
    position: relative;
    flex-shrink: 0;
  }
  .sum {
    padding: var(--space-half) var(--space-2);
    border-radius: var(--radius);
    color: var(--muted);
    font-size: var(--type-body);
    min-width: 44px;
  }
  .sum:hover {
    background: var(--stone);
  }
  .sum.alarm {
    color: var(--red);
    font-weight: 650;
  }
  .sum.warning {
    color: var(--ochre);
  }
  .list {
    position: absolute;
    right: 0;
    top: 38px;
    width: 440px;
    z-index: 70;
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    box-shadow: 0 8px 26px rgb(38 33 29 / 0.16);
    padding: var(--space-2) var(--space-3) var(--space-3);
  }
  .head {
    display: flex;
    gap: var(--space-3);
    margin-bottom: var(--space-1);
  }
  .head button:first-of-type {
    margin-left: auto;
  }
  .one {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
    padding: var(--space-1) 0;
    border-bottom: 1px solid var(--hair);
  }
  .what {
    flex: 1;
  }
  .one.alarm .sign {
    color: var(--red);
  }
  .one.warning .sign {
    color: var(--ochre);
  }
  a {
    display: inline-block;
    margin-top: var(--space-2);
  }
</style>
