<!-- Who looks on and who holds the controls: ask for them, hand them over, make a link that can only watch, give one's name. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import type { BodyIn } from '$contract/api';
  import { call, faultText } from '../api';
  import { useShell } from './shell.svelte';

  const shell = useShell();
  const { feed } = shell;
  let open = $state(false);
  let link = $state('');
  let box = $state<HTMLElement>();

  const people = $derived(feed.people);
  const mine = $derived(people?.holder?.id === people?.you.id);
  const said = $derived(
    !people
      ? ''
      : people.you.watches
        ? 'watching only'
        : mine
          ? 'your controls'
          : people.holder
            ? `${people.holder.name} holds`
            : 'controls free',
  );

  async function act(body: BodyIn<'POST /api/controls'>) {
    try {
      return await call('POST /api/controls', { body });
    } catch (error) {
      shell.say(faultText(error));
      return null;
    }
  }
  async function makeLink() {
    const made = await act({ do: 'link' });
    if (made?.path) link = location.origin + made.path;
  }
  onMount(() => {
    const away = (e: PointerEvent) => open && !box?.contains(e.target as Node) && (open = false);
    addEventListener('pointerdown', away);
    return () => removeEventListener('pointerdown', away);
  });
</script>

{#if people}
  <div class="people" bind:this={box}>
    <button
      class="sum"
      class:asked={mine && people.asks.length > 0}
      aria-expanded={open}
      title="Who looks on, who holds the controls"
      onclick={() => (open = !open)}
      ><span class="eyes" aria-label="{people.viewers} browsers look on"
        >◉ <span class="mono">{people.viewers}</span></span
      >
      <span class="said" data-testid="controls"
        >{mine && people.asks.length ? `${people.asks[0].name} asks` : said}</span
      ></button
    >
    {#if open}
      <div class="box" role="dialog" aria-label="Controls">
        <p>
          {people.viewers === 1 ? 'Only this browser looks' : `${people.viewers} browsers look`} on{people.watchers
            ? `, ${people.watchers} of them by a link that can only watch`
            : ''}.
        </p>
        {#if !people.you.watches}
          <label
            >Your name <input
              value={people.you.name}
              maxlength="40"
              onchange={(e) => void act({ do: 'name', name: e.currentTarget.value })}
            /></label
          >
          {#if mine}
            <p>You hold the controls: nobody else changes anything.</p>
            {#each people.asks as a (a.id)}<button
                class="wide"
                onclick={() => void act({ do: 'hand over', to: a.id })}>Hand over to {a.name}</button
              >{/each}
            <button class="wide" onclick={() => void act({ do: 'hand over', to: null })}
              >Let go of them</button
            >
          {:else}
            <p>
              {people.holder
                ? `${people.holder.name} holds the controls. Notes and acknowledging go without them, and all to rest always.`
                : 'Nobody holds the controls; the first who changes something takes them.'}
            </p>
            <button class="wide" onclick={() => void act({ do: 'ask' })}
              >{people.holder ? 'Ask for the controls' : 'Take the controls'}</button
            >
            {#if people.asks.some((a) => a.id === people.you.id)}<p class="muted">You have asked.</p>{/if}
          {/if}
          <button class="wide" onclick={() => void makeLink()}>Make a link that can only watch</button>
          {#if link}<input
              class="link mono"
              readonly
              value={link}
              aria-label="Link that can only watch"
            />{/if}
        {/if}
      </div>
    {/if}
  </div>
{/if}

<style>
  .people {
    position: relative;
    flex-shrink: 0;
  }
  .sum {
    display: flex;
    flex-direction: column;
    line-height: 1.25;
    text-align: left;
    font-size: var(--type-small);
    color: var(--muted);
    padding: var(--space-half) var(--space-1);
    border-radius: var(--radius);
    max-width: 116px;
  }
  .sum:hover {
    background: var(--stone);
  }
  .sum.asked .said {
    color: var(--ochre);
    font-weight: 650;
  }
  .said {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    max-width: 104px;
  }
  .box {
    position: absolute;
    right: 0;
    top: 40px;
    width: 300px;
    z-index: 70;
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    box-shadow: 0 8px 26px rgb(38 33 29 / 0.16);
    padding: var(--space-3);
    display: grid;
    gap: var(--space-2);
  }
  p {
    margin: 0;
  }
  input {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-2);
    font-size: var(--type-body);
  }
  label input {
    width: 150px;
    margin-left: var(--space-2);
  }
  .wide {
    text-align: left;
    color: var(--plum);
    font-weight: 600;
  }
  .link {
    font-size: var(--type-fine);
  }
</style>
