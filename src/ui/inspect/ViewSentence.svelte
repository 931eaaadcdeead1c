<!-- What is shown, as a sentence whose values are the controls. -->
<script lang="ts">
  import { z } from 'zod';
  import { field, type Names, type Sentence } from '$core/sentence/sentence';
  import { Drawing, type NamedDrawing } from '$contract/drawing';
  import { provideChoices } from '../sentence/choices';
  import SentenceView from '../sentence/SentenceView.svelte';
  import type { Inspection } from './inspection.svelte';

  type Props = {
    insp: Inspection;
    kept: readonly NamedDrawing[];
    /** The view that is kept under a name, or one that has it, is shown. */
    keep: (name: string) => Promise<unknown>;
    lay: (ids: string[]) => Promise<unknown>;
  };
  let { insp, kept, keep, lay }: Props = $props();

  const schema = Drawing.extend({
    takes: field(z.array(z.string()).min(1, 'One take at least.'), {
      label: 'Takes',
      editor: 'several',
      options: { ask: 'takes' },
      counted: { beyond: 1, as: 'takes' },
      help: 'More are laid over these in the drawer.',
    }),
    front: field(z.string(), {
      label: 'Stands out',
      editor: 'choice',
      options: { ask: 'fronts' },
      help: '[ and ] step through them.',
    }),
    kept: field(z.string().trim().max(80), {
      label: 'Kept as',
      editor: 'choice',
      options: { ask: 'kept', free: true },
      none: 'nothing yet',
      help: 'A name keeps how this is drawn, for any takes that have these channels; a name that is there already shows that.',
    }),
  });
  type Said = z.output<typeof schema>;

  function template({ takes, as, laid, aligned, time, spread }: Said): string {
    const many = takes.length > 1;
    const drawn =
      as === 'a curve against'
        ? 'as {as} {against}'
        : as === 'one plot'
          ? 'in {as}, an axis for each {axes}'
          : as === 'spectra'
            ? 'as {as} of the window, {lines} lines'
            : 'in {as}';
    const from = {
      'their start': '{aligned}',
      'the clock': '{aligned}',
      'a mark': '{aligned}, {mark}',
      'a crossing': 'where {alignBy} {way} through {level} ({aligned}, hysteresis {hysteresis})',
      'the best fit': '{aligned} of {alignBy}',
    }[aligned];
    const told = time === 'since a mark' && aligned !== 'a mark' ? ' ({mark})' : '';
    const timed =
      as === 'spectra' || as === 'a curve against'
        ? ''
        : many
          ? `; time {time}${told}`
          : `, time {time}${told}`;
    const laidOut = !many
      ? aligned === 'their start'
        ? ''
        : `, counted from ${from}`
      : `, laid {laid} from ${from}; {front} stands out${laid === 'over each other' && as !== 'spectra' && as !== 'a curve against' ? `, told apart by {legend}, with ${spread === 'no spread' ? '{spread}' : 'the spread {spread}'}` : ', told apart by {legend}'}`;
    return `Draw {channels} of {takes} ${drawn}${laidOut}${timed}, {table} below. Kept as {kept}.`;
  }
  const sentence: Sentence<typeof schema> = { schema, template };

  const label = (t: { head: { name: string; number: number } }) => `${t.head.name} (no. ${t.head.number})`;
  const byLabel = $derived(new Map(insp.takes.map((t) => [label(t), t.head.id])));
  const units = $derived(
    new Map([...insp.ordered].reverse().flatMap((t) => t.signals.map((s) => [s.name, s.unit]))),
  );
  const names: Names = {
    channel: (name) => ({ name, unit: units.get(name) ?? '' }),
  };
  const drawing = $derived(JSON.stringify(insp.drawing));
  const keptAs = $derived(kept.find((k) => JSON.stringify(k.drawing) === drawing)?.name ?? '');
  const value = $derived<Said>({
    ...insp.drawing,
    channels: insp.names,
    takes: insp.takes.map(label),
    front: insp.main ? insp.main.head.name : '',
    kept: keptAs,
  });
  const facts = $derived([...new Set(insp.takes.flatMap((t) => Object.keys(t.head.facts)))]);
  const marks = $derived(
    [
      ...new Set(
        insp.takes.flatMap((t) =>
          t.notes.filter((n) => n.kind !== 'armed' && n.kind !== 'pre-flight').map((n) => n.says),
        ),
      ),
    ].slice(0, 40),
  );
  const options = $derived({
    takes: insp.takes.map(label),
    fronts: insp.takes.map((t) => t.head.name),
    kept: kept.map((k) => k.name),
    legends: ['name', ...facts],
    marks,
  });
  provideChoices(() => [...units].map(([name, unit]) => ({ id: name, name, unit })));

  async function change(key: string, next: unknown): Promise<void> {
    switch (key) {
      case 'takes':
        await lay((next as string[]).flatMap((l) => byLabel.get(l) ?? []));
        return;
      case 'front': {
        const found = insp.takes.find((t) => t.head.name === next);
        if (found) insp.standOut(found.head.id);
        return;
      }
      case 'kept': {
        const known = kept.find((k) => k.name === next);
        if (known) insp.change(known.drawing);
        else if (next) await keep(next as string);
        return;
      }
      case 'as': {
        // One channel against another: the first runs across, the rest upward.
        const needs = next === 'a curve against' && insp.drawing.against === null;
        const across = insp.names.at(-1);
        const up = insp.names.length > 1 ? insp.names.slice(0, -1) : insp.names;
        return insp.change({
          as: next as Said['as'],
          ...(needs && { against: across ?? null, channels: up }),
        });
      }
      case 'aligned': {
        const needs = (next === 'a crossing' || next === 'the best fit') && insp.drawing.alignBy === null;
        return insp.change({
          aligned: next as Said['aligned'],
          ...(needs && { alignBy: insp.names[0] ?? null }),
        });
      }
      default:
        return insp.change({ [key]: next });
    }
  }
</script>

<div class="view" data-testid="view">
  <SentenceView {sentence} {value} {names} {options} {change} size="normal" />
</div>

<style>
  .view {
    min-width: 0;
  }
  .view :global(.sentence) {
    line-height: 1.7;
    font-size: var(--type-body);
    text-wrap: pretty;
  }
</style>
