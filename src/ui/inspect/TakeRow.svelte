<!-- A take in the drawer: its name, verdict, time, tags, and a small picture of a channel. -->
<script lang="ts">
  import { traceColour } from '$contract/palette';
  import type { StripPicture } from '$contract/api/inspect';
  import type { TakeLine } from '$contract/take-list';
  import { takeTag } from '../take/labels';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    line: TakeLine;
    strip: StripPicture;
    marked: boolean;
    front: boolean;
    colour: number | null;
    click: (event: MouseEvent, byBox: boolean) => void;
  };
  let { line, strip, marked, front, colour, click }: Props = $props();
  const shell = useShell();

  const WIDTH = 54;
  const HEIGHT = 18;
  const path = $derived.by(() => {
    if (!strip) return '';
    const step = WIDTH / strip.min.length;
    const y = (v: number) => (HEIGHT - 1 - ((v - 1) / 254) * (HEIGHT - 2)).toFixed(1);
    let out = '';
    strip.min.forEach((low, i) => {
      const high = strip.max[i];
      if (low === 0) return void (out += ' ');
      const x = (i * step).toFixed(1);
      const joins = i > 0 && strip.min[i - 1] !== 0;
      out += `${joins ? 'L' : 'M'}${x} ${y(i % 2 ? high : low)}L${x} ${y(i % 2 ? low : high)}`;
    });
    return out;
  });
  const facts = $derived(Object.values(line.facts).join(' · '));
  const verdict = $derived(line.judgement?.verdict ?? '');
  const told = $derived(
    [
      line.name,
      ...Object.entries(line.facts).map(([k, v]) => `${k}: ${v}`),
      ...(line.judgement
        ? [`${verdict}${line.judgement.reason ? `: ${line.judgement.reason}` : ''} (${line.judgement.by})`]
        : []),
      ...(line.tags.length ? [`tagged ${line.tags.join(', ')}`] : []),
      ...(line.from ? [`brought in from ${line.from}`] : []),
    ].join('\n'),
  );
</script>

<div class="row" class:front class:marked data-take={line.name} title={told}>
  <input
    type="checkbox"
    checked={marked}
    aria-label="Mark {line.name}"
    onclick={(e) => click(e, true)}
    style:accent-color={colour === null ? null : traceColour(colour, shell.night)}
  />
  <button class="show" onclick={(e) => click(e, false)} aria-current={front ? 'true' : undefined}>
    <span class="line"
      ><strong>{line.name}</strong>
      {#if verdict}<span class={verdict}>{verdict}</span>{/if}</span
    >
    <span class="line muted"
      ><span class="when"
        >{line.from ? '⇥ ' : ''}{line.mended ? '✎ ' : ''}{takeTag(line)}{line.state === 'interrupted'
          ? ' ⌁'
          : ''}{line.tags.length ? ` · ${line.tags.join(', ')}` : ''}</span
      >
      {#if path}<svg width={WIDTH} height={HEIGHT} aria-hidden="true"><path d={path} /></svg>{/if}</span
    >
    {#if facts}<span class="line muted given">{facts}</span>{/if}
  </button>
</div>

<style>
  .row {
    display: flex;
    gap: var(--space-2);
    height: 64px;
    box-sizing: border-box;
    padding: 0 var(--space-2);
    border-bottom: 1px solid var(--hair);
    align-items: center;
  }
  .row:hover {
    background: var(--stone);
  }
  .front {
    background: var(--tint);
  }
  .show {
    flex: 1;
    min-width: 0;
    text-align: left;
    height: 100%;
    display: flex;
    flex-direction: column;
    justify-content: center;
  }
  .line {
    display: flex;
    justify-content: space-between;
    gap: var(--space-1);
    align-items: center;
    white-space: nowrap;
    line-height: 18px;
    font-size: var(--type-small);
  }
  strong {
    font-size: var(--type-body);
    overflow: hidden;
    text-overflow: ellipsis;
    unicode-bidi: plaintext;
  }
  .given {
    display: block;
    overflow: hidden;
    text-overflow: ellipsis;
    font-size: var(--type-fine);
    line-height: 15px;
  }
  .when {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .good {
    color: var(--moss);
  }
  .doubtful {
    color: var(--ochre);
  }
  .void {
    color: var(--red);
  }
  svg {
    flex-shrink: 0;
  }
  path {
    fill: none;
    stroke: var(--tooth);
    stroke-width: 1;
  }
  .front path {
    stroke: var(--plum);
  }
</style>
