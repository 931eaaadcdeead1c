<!-- A part, or all, mirrored at a plane, repeated along a step or turned about an axis. -->
<script lang="ts">
  import { mirrored, repeated, turnedAbout, type Axis, type Wireframe } from '$core/wireframe/wireframe';
  import type { FrameBody, NamedFrame } from '$contract/wireframe';
  import { parseNumber } from '../sentence/options';

  type Props = { frame: NamedFrame; take: (next: Partial<FrameBody>, says: string) => void };
  let { frame, take }: Props = $props();
  let of = $state('');
  let how = $state<'mirror' | 'repeat' | 'turn'>('mirror');
  let axis = $state<Axis>('y');
  let at = $state('0');
  let times = $state(2);
  let step = $state('1 0 0');
  let degrees = $state('120');
  let wrong = $state('');
  /** All of them, or those of a part, or those whose name begins so. */
  const names = $derived(
    new Set(
      frame.points
        .filter((p) => of === '' || p.part === of || p.name.toLowerCase().startsWith(of.toLowerCase()))
        .map((p) => p.name),
    ),
  );
  function go() {
    const whole: Wireframe = frame;
    const numbers = step.split(/[\s;]+/).filter(Boolean).map(parseNumber); // prettier-ignore
    const [place, angle] = [parseNumber(at), parseNumber(degrees)];
    if (names.size === 0) return void (wrong = 'No point is meant.');
    if ([place, angle].some(Number.isNaN) || numbers.length !== 3 || numbers.some(Number.isNaN))
      return void (wrong = 'Give numbers.');
    const made =
      how === 'mirror'
        ? mirrored(whole, names, axis, place)
        : how === 'repeat'
          ? repeated(whole, names, times, numbers as unknown as readonly [number, number, number])
          : turnedAbout(whole, names, times, axis, angle);
    take(
      {
        points: made.points.map((p) => ({ ...p, at: [...p.at] })),
        lines: made.lines.map(([a, b]) => [a, b]),
        surfaces: made.surfaces.map((s) => [...s]),
      },
      how === 'mirror' ? `mirrored at ${axis} = ${place}` : how === 'repeat' ? `repeated ${times} times` : `turned about ${axis} ${times} times`, // prettier-ignore
    );
  }
</script>

<form
  onsubmit={(e) => {
    e.preventDefault();
    go();
  }}
>
  <label
    >Points <input
      class="plain"
      list="frame-kinds"
      placeholder="all"
      bind:value={of}
      aria-label="Which points"
    /></label
  >
  <datalist id="frame-kinds"
    >{#each frame.parts as p (p.name)}<option value={p.name}></option>{/each}</datalist
  >
  <select class="plain" bind:value={how} aria-label="What is done"
    ><option value="mirror">mirrored at</option><option value="repeat">repeated</option><option value="turn"
      >turned about</option
    ></select
  >
  {#if how === 'mirror'}
    <select class="plain" bind:value={axis} aria-label="Axis"
      >{#each ['x', 'y', 'z'] as a (a)}<option>{a}</option>{/each}</select
    >
    =
    <input class="plain short" bind:value={at} aria-label="Place of the plane, m" /> m
  {:else}
    {#if how === 'turn'}<select class="plain" bind:value={axis} aria-label="Axis"
        >{#each ['x', 'y', 'z'] as a (a)}<option>{a}</option>{/each}</select
      >{/if}
    <input class="plain short" type="number" min="1" max="100" bind:value={times} aria-label="Times" /> times
    by
    {#if how === 'turn'}<input class="plain short" bind:value={degrees} aria-label="Degrees" /> °{:else}<input
        class="plain"
        bind:value={step}
        aria-label="Step x y z, m"
      /> m{/if}
  {/if}
  <p class="muted">
    {names.size} points{#if wrong}<span class="wrong"> · {wrong}</span>{/if}
  </p>
  <button class="dotted">do it</button>
</form>

<style>
  form {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-2);
    align-items: baseline;
    max-width: 380px;
  }
  label {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
  }
  .short {
    width: 64px;
  }
  p {
    margin: 0;
    width: 100%;
    font-size: var(--type-small);
  }
  .wrong {
    color: var(--red);
  }
</style>
