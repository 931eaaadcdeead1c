<!-- Rows from a sheet as points, lines or surfaces. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { linesFromText, pointsFromText, surfacesFromText } from '$core/wireframe/text';
  import type { FrameBody, NamedFrame } from '$contract/wireframe';
  import { faultText } from '../api';
  import Dialog from '../kit/Dialog.svelte';

  type Props = {
    frame: NamedFrame;
    pasting: 'Points' | 'Lines' | 'Surfaces' | null;
    pasted: string;
    edit: (change: Partial<FrameBody>, says: string) => Promise<boolean>;
  };
  let { frame, pasting = $bindable(), pasted = $bindable(), edit }: Props = $props();
  let wrong = $state('');
  type Three = [number, number, number];

  function changeOf(): [Partial<FrameBody>, string] {
    const known = new Set(frame.points.map((p) => p.name));
    if (pasting === 'Lines') {
      const lines = linesFromText(pasted, known);
      return [{ lines: [...frame.lines, ...lines] }, `${lines.length} lines pasted`];
    }
    if (pasting === 'Surfaces') {
      const surfaces = surfacesFromText(pasted, known);
      return [{ surfaces: [...frame.surfaces, ...surfaces] }, `${surfaces.length} surfaces pasted`];
    }
    const points = pointsFromText(pasted);
    const fresh = new Set(points.map((p) => p.name));
    const parts = new Set(
      points.map((p) => p.part).filter((n) => n && !frame.parts.some((p) => p.name === n)),
    );
    return [
      {
        points: [
          ...frame.points.filter((p) => !fresh.has(p.name)),
          ...points.map((p) => ({ ...p, at: [...p.at] as Three })),
        ],
        parts: [
          ...frame.parts,
          ...[...parts].map((name) => ({
            name,
            at: [0, 0, 0] as Three,
            turn: [0, 0, 0] as Three,
            rigid: false,
          })),
        ],
      },
      `${points.length} points pasted`,
    ];
  }
  async function take() {
    wrong = '';
    try {
      if (!(await edit(...changeOf()))) return;
      pasting = null;
      pasted = '';
    } catch (error) {
      const { what, next } = faultText(error);
      wrong = [what, next].filter(Boolean).join(' ');
    }
  }
</script>

<Dialog
  open={pasting !== null}
  title="Paste {pasting?.toLowerCase() ?? ''}"
  onclose={() => (pasting = null)}
  size="md"
>
  <p class="muted">
    {pasting === 'Points'
      ? 'A name, then x, y, z in m, and perhaps a part in each row. Points of a name that is there are written over.'
      : pasting === 'Lines'
        ? 'Names of two points or more in each row; they are joined one after the other.'
        : 'Names of three or four points in each row.'}
  </p>
  <textarea rows="12" aria-label="Rows" bind:value={pasted}></textarea>
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  <Button size="sm" onclick={() => void take()}>Take them over</Button>
</Dialog>

<style>
  textarea {
    width: 100%;
    font-family: var(--font-mono);
    font-size: var(--type-small);
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
  }
  .wrong {
    margin: 0;
    color: var(--red);
    font-size: var(--type-small);
  }
</style>
