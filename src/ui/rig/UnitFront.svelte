<!-- The front of a unit: its modules and terminals as they stand; live. -->
<script lang="ts">
  import type { Channel } from '$contract/channel';
  import { roleOf } from '$contract/channel';
  import type { UnitState } from '$contract/unit';
  import { CHANNEL_KINDS } from '$contract/kinds/kinds';
  import { TERMINAL_SIGNS, type TerminalState } from '$contract/unit';
  import type { Terminal } from '$contract/unit';
  import { Button } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import { useShell } from '../shell/shell.svelte';

  import { oddUnits, type OddUnit } from './odd-units';
  import OddUnits from './OddUnits.svelte';

  type Props = {
    unit: UnitState;
    channels: Channel[];
    chosen: string | null;
    choose: (terminal: string) => void;
  };
  let { unit, channels, chosen, choose }: Props = $props();
  const shell = useShell();
  const { feed } = shell;
  const d = $derived(unit.description);
  const wired = $derived(
    new Map(channels.flatMap((c) => (c.wire?.unit === d.serial ? [[c.wire.terminal, c] as const] : []))),
  );
  /** Values that arrive by message are many: some are picked and become channels together. */
  let picked = $state<string[]>([]);
  let odd = $state.raw<OddUnit[]>([]);
  const byMessage = (t: Terminal) => t.kind === 'value' || t.kind === 'setting';

  function stateAt(channel: Channel | undefined): { state: TerminalState; words: string } {
    if (!unit.answering) return { state: 'lost', words: 'lost' };
    if (!channel) return { state: 'free', words: 'free' };
    const state = feed.stateOf(channel.id);
    if (state === 'open' || state === 'short' || state === 'over range' || state === 'silent')
      return { state: 'trouble', words: state };
    if (roleOf(channel) === 'driven') return { state: 'driven', words: 'driven' };
    return state === 'lost' || state === 'not measured'
      ? { state: 'lost', words: state }
      : { state: 'reading', words: 'reading' };
  }
  const toggle = (id: string) =>
    (picked = picked.includes(id) ? picked.filter((p) => p !== id) : [...picked, id]);

  async function make() {
    const taken = new Set(channels.map((c) => c.name));
    const wanted = d.modules.flatMap((m) =>
      m.terminals
        .filter((t) => picked.includes(t.id) && !wired.has(t.id))
        .map((t) => {
          const label = t.label ?? t.id;
          const name = taken.has(label) ? `${m.id} ${label}` : label;
          taken.add(name);
          return {
            name,
            kind: CHANNEL_KINDS.find((k) => k.accepts.includes(t.kind))!.kind,
            group: d.name,
            wire: { unit: d.serial, terminal: t.id },
          };
        }),
    );
    try {
      const made = await call('POST /api/channels', { body: wanted });
      picked = [];
      await shell.refresh();
      odd = oddUnits([made].flat(), d);
    } catch (error) {
      shell.say(faultText(error));
    }
  }
</script>

<div class="modules" class:lost={!unit.answering} class:wide={d.modules.some((m) => m.bandwidthShare === 0)}>
  {#each d.modules as module (module.id)}
    <div class="module" class:here={chosen?.startsWith(module.id + '/')}>
      <strong title={module.id}>{module.id}</strong><span class="muted" title={module.title}
        >{module.title}</span
      >
      <div
        class="terminals"
        class:big={d.modules.length <= 6 && module.terminals.length <= 4 && module.bandwidthShare > 0}
      >
        {#each module.terminals as terminal (terminal.id)}
          {@const channel = wired.get(terminal.id)}
          {@const s = stateAt(channel)}
          {@const own = terminal.id.split('/').slice(1).join('/')}
          <div class="place">
            {#if byMessage(terminal) && !channel}<input
                type="checkbox"
                checked={picked.includes(terminal.id)}
                onchange={() => toggle(terminal.id)}
                aria-label="Pick {terminal.label ?? terminal.id}"
              />{/if}
            <button
              class="terminal {s.state}"
              aria-pressed={chosen === terminal.id}
              aria-label="{terminal.id}: {channel?.name ?? 'free'}, {s.words}"
              title="{terminal.label ?? terminal.id}: {channel?.name ?? 'free'}, {s.words}"
              onclick={() => choose(terminal.id)}
            >
              <span class="mono own" class:label={terminal.label !== undefined}>{terminal.label ?? own}</span>
              {#if channel && channel.name !== terminal.label}<span class="name">{channel.name}</span>{/if}
              <span class="sign">{TERMINAL_SIGNS[s.state]}</span>
            </button>
          </div>
        {/each}
      </div>
    </div>
  {/each}
</div>
<OddUnits bind:odd />
{#if picked.length}
  <p class="make">
    <Button size="sm" onclick={() => void make()}
      >Make {picked.length} channel{picked.length > 1 ? 's' : ''}</Button
    ><span class="muted">named and scaled as the unit says</span>
  </p>
{/if}
<p class="key muted">
  <span>● reading</span><span>○ free</span><span class="red">◇ trouble</span><span class="plum">→ driven</span
  ><span>◌ lost</span>
</p>

<style>
  .modules {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(98px, 1fr));
    gap: var(--space-2);
    margin-top: var(--space-3);
    max-width: 1240px;
  }
  .modules.wide {
    grid-template-columns: repeat(auto-fill, minmax(176px, 1fr));
  }
  .modules.lost {
    opacity: 0.55;
  }
  .module {
    background: var(--stone);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: var(--space-2);
    display: flex;
    flex-direction: column;
    min-width: 0;
  }
  .module.here {
    background: var(--tint);
    border-color: var(--plum);
  }
  .module > strong,
  .module > .muted {
    padding-left: var(--space-1);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .module > strong {
    font-size: var(--type-body);
    line-height: 1.2;
  }
  .module > .muted {
    font-size: var(--type-small);
  }
  .terminals {
    display: flex;
    flex-direction: column;
    gap: var(--space-1);
    margin-top: var(--space-2);
  }
  .place {
    display: flex;
    gap: var(--space-1);
    align-items: center;
  }
  .terminal {
    display: flex;
    flex: 1;
    gap: var(--space-1);
    align-items: center;
    background: var(--card);
    border: 1px solid var(--hair);
    border-radius: var(--radius);
    min-height: 26px;
    padding: 0 var(--space-1);
    text-align: left;
    overflow: hidden;
    min-width: 0;
  }
  .big .terminal {
    min-height: 50px;
    flex-wrap: wrap;
    align-content: center;
    row-gap: 0;
  }
  .big .name {
    order: 3;
    flex-basis: 100%;
  }
  .name,
  .own {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .own:not(.label) {
    overflow: visible;
    flex-shrink: 0;
  }
  .name {
    font-size: var(--type-fine);
    color: var(--muted);
  }
  .terminal .sign {
    margin-left: auto;
  }
  .terminal.free .sign,
  .terminal.lost .sign {
    color: var(--line);
  }
  .terminal.trouble .sign,
  .red {
    color: var(--red);
  }
  .terminal.driven .sign,
  .plum {
    color: var(--plum);
  }
  .terminal[aria-pressed='true'] {
    outline: 1px solid var(--plum);
    outline-offset: -2px;
    border-color: var(--plum);
  }
  .terminal.trouble[aria-pressed='true'] {
    outline-color: var(--red);
    border-color: var(--red);
  }
  .key,
  .make {
    display: flex;
    gap: var(--space-3);
    margin: var(--space-2) 0 0;
    font-size: var(--type-small);
    align-items: center;
  }
</style>
