import { z } from 'zod';
import { CHART_FORMS } from '$core/figures/forms';
import { field, type Sentence } from '$core/sentence/sentence';
import { SHOWN, caption, channels, kind, seconds } from './report-fields';

export const AXES = [
  'each with its own axis, all at the left',
  'each with its own axis, left and right in turn',
  'one under the other',
  'on one axis',
] as const;
/** Colours of traces by their names, in the order of the palette. */
export const TRACE_NAMES = ['plum', 'teal', 'ochre', 'blue', 'green', 'rose', 'brown'] as const;
const LOOK_COLOURS = ['its own colour', ...TRACE_NAMES] as const;
const LOOK_LINES = ['as it comes', 'full', 'dashed', 'dotted'] as const;
const LOOK_WEIGHTS = ['light', 'usual', 'bold'] as const;
const end = (label: string) => field(z.number().min(-1e15).max(1e15).nullable(), { label, editor: 'number', none: 'as it comes' }); // prettier-ignore
/** How a curve of a chart looks. */
export const CurveSetting = z.strictObject({
  label: field(z.string().trim().max(60), { label: 'Name', editor: 'text', none: 'as its channel' }),
  from: end('Lower end of its axis'),
  to: end('Upper end of its axis'),
  colour: field(z.enum(LOOK_COLOURS), { label: 'Colour', editor: 'choice', options: LOOK_COLOURS }),
  line: field(z.enum(LOOK_LINES), { label: 'Line', editor: 'choice', options: LOOK_LINES }),
  weight: field(z.enum(LOOK_WEIGHTS), { label: 'Weight', editor: 'choice', options: LOOK_WEIGHTS }),
});
export type CurveSetting = z.infer<typeof CurveSetting>;
export const PLAIN_CURVE: CurveSetting = { label: '', from: null, to: null, colour: 'its own colour', line: 'as it comes', weight: 'usual' }; // prettier-ignore
export const curveSentence: Sentence<typeof CurveSetting> = {
  schema: CurveSetting,
  template: () => 'is called {label}, its axis from {from} to {to}; {colour}, line {line}, weight {weight}.',
};
export const NAMES = ['shown', 'at the lines', 'left out'] as const;
/** What stands for a part of the time, where a form draws parts. */
const PART_OF = ['mean', 'highest', 'lowest'] as const;

const chartSchema = z.strictObject({
  channels,
  from: seconds('From'),
  to: seconds('To', 'the end'),
  form: field(z.enum(CHART_FORMS), { label: 'Drawn as', editor: 'choice', options: CHART_FORMS }),
  parts: field(z.number().int().min(1).max(400), { label: 'Parts', editor: 'number', help: 'Equal parts of the time, a bar or a cell for each.' }), // prettier-ignore
  of: field(z.enum(PART_OF), { label: 'Of each part', editor: 'choice', options: PART_OF }),
  axes: field(z.enum(AXES), { label: 'Axes', editor: 'choice', options: AXES }),
  scale: field(z.enum(['linear', 'logarithmic']), {
    label: 'Scales',
    editor: 'choice',
    options: ['linear', 'logarithmic'],
  }),
  grid: field(z.enum(['from the first', 'none']), {
    label: 'Lines across',
    editor: 'choice',
    options: ['from the first', 'none'],
  }),
  marks: field(z.enum(SHOWN), { label: 'Marks of the take', editor: 'choice', options: SHOWN }),
  names: field(z.enum(NAMES), { label: 'Names', editor: 'choice', options: NAMES }),
  text: field(z.number().min(4).max(20), { label: 'Letters', editor: 'number', unit: 'pt' }),
  caption,
  /** By the ids of channels. */
  looks: z.record(z.string().max(40), CurveSetting.partial()),
});
/** How a chart says what it draws as what. */
const drawnAs = ({ form, axes }: z.infer<typeof chartSchema>): string => {
  const others = 'marks of the take {marks}, names {names}, letters of {text}. Caption {caption}.';
  const grid = axes === AXES[2] ? '' : ', lines across {grid}';
  switch (form) {
    case 'rows of colour':
      return 'Draw {channels} from {from} to {to} as {form}, of each of {parts} parts the {of}; letters of {text}. Caption {caption}.';
    case 'against the first of them':
      return 'Draw {channels} from {from} to {to}, {form}, {axes}; scales {scale}, lines across {grid}, names {names}, letters of {text}. Caption {caption}.';
    case 'bars':
      return `Draw {channels} over time from {from} to {to} as {form}, of each of {parts} parts the {of}, {axes}; scales {scale}${grid}, ${others}`;
    default:
      return `Draw {channels} over time from {from} to {to} as {form}, {axes}; scales {scale}${grid}, ${others}`;
  }
};
export const chart = kind({
  kind: 'chart',
  title: 'Chart',
  says: 'lines, steps, bars, one against another, rows of colour',
  sentence: { schema: chartSchema, template: drawnAs },
  defaults: {
    channels: [],
    from: 0,
    to: null,
    form: 'lines',
    parts: 24,
    of: 'mean',
    axes: AXES[0],
    scale: 'linear',
    grid: 'from the first',
    marks: 'shown',
    names: 'shown',
    text: 7.5,
    caption: '',
    looks: {},
  } as z.infer<typeof chartSchema>,
  size: [180, 80],
});
