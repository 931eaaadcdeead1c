<!-- The circuit of a terminal: a bridge with its active arms filled, or the wires of another kind, each with where it goes. -->
<script lang="ts">
  import { channelKind, wiresOf, type Channel } from '$contract/channel';

  type Props = {
    channel: Channel;
    /** Names of the terminal's own contacts. */
    contacts?: string[];
    open?: boolean;
  };
  let { channel, contacts, open = false }: Props = $props();

  const kind = $derived(channelKind(channel.kind));
  const wires = $derived(wiresOf(channel, contacts));
  const active = $derived(kind.bridge?.active(channel.settings) ?? []);
  // Arms in ring order: R1 left-top, R2 right-top, R3 right-bottom, R4 left-bottom.
  const ARMS = [
    [70, 37, -38],
    [124, 37, 38],
    [124, 85, -38],
    [70, 85, 38],
  ] as const;
  /** What the drawn thing is, in one word. */
  const word = $derived(kind.title(channel.settings).split(' ')[0]);
</script>

{#if kind.bridge}
  <svg viewBox="0 0 300 124" role="img" aria-label="Bridge and its wires">
    <g fill="none" stroke="currentColor" stroke-width="1.4">
      <path d="M97 14 150 61 97 108 44 61Z" />
      <path d="M97 14V10H222M97 108v4H222M150 61H222" />
      {#if wires.length === 4}<path d="M44 61H18V120H222" stroke-dasharray="3 3" />{:else}<path
          d="M44 61H24V118"
        />{/if}
    </g>
    {#each ARMS as [x, y, turn], i (i)}
      <rect
        x={x - 12}
        y={y - 6}
        width="24"
        height="12"
        transform="rotate({turn} {x} {y})"
        class:active={active[i]}
        class="arm"
      />
    {/each}
    {#each wires.filter((w) => w.terminal !== 'S−') as wire, i (wire.terminal)}
      <circle cx="224" cy={[10, 61, 112][i]} r="4" fill="currentColor" />
      <text x="234" y={[14, 65, 116][i]} class:wrong={open && i === 1}
        >{wire.terminal} <tspan class="to">{wire.to}</tspan></text
      >
    {/each}
    {#if open}<path d="M178 54l12 14M190 54l-12 14" class="cross" />{/if}
  </svg>
{:else}
  <svg viewBox="0 0 300 {24 + wires.length * 26}" role="img" aria-label="Wires of the terminal">
    <rect
      x="14"
      y="12"
      width="74"
      height={wires.length * 26}
      rx="6"
      fill="none"
      stroke="currentColor"
      stroke-width="1.4"
    />
    <text x="51" y={18 + wires.length * 13} text-anchor="middle" class:long={word.length > 9}>{word}</text>
    {#each wires as wire, i (i)}
      <path d="M88 {26 + i * 26}H222" stroke="currentColor" stroke-width="1.4" />
      <circle cx="224" cy={26 + i * 26} r="4" fill="currentColor" />
      <text x="234" y={30 + i * 26} class:wrong={open && i === 0}>{wire.terminal}</text>
      <text x="150" y={21 + i * 26} class="to" text-anchor="middle">{wire.to}</text>
    {/each}
    {#if open}<path d="M188 19l12 14M200 19l-12 14" class="cross" />{/if}
  </svg>
{/if}

<style>
  svg {
    display: block;
    width: 100%;
    background: var(--stone);
    border-radius: var(--radius);
    padding: var(--space-2) var(--space-1);
    box-sizing: border-box;
    flex-shrink: 0;
    color: var(--ink);
  }
  text {
    font-size: var(--type-small);
    fill: var(--ink);
  }
  .to {
    fill: var(--muted);
    font-size: var(--type-fine);
  }
  .arm {
    fill: var(--card);
    stroke: var(--ink);
    stroke-width: 1.2;
  }
  .arm.active {
    fill: var(--plum-fill);
  }
  .wrong {
    fill: var(--red);
  }
  .cross {
    stroke: var(--red);
    stroke-width: 2.4;
  }
  text.long {
    font-size: 10px;
  }
</style>
