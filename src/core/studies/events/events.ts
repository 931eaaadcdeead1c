import { z } from 'zod';
import { Detector } from '../../condition/detector';
import { rateHz, sampleS, samplesWithin } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { Moments } from '../../statistics/moments';
import { numeric, words } from '../classes';
import { readSpan, spanFields, spanOf } from '../span';
import type { Finding, ResultTable, StudyKind, StudyResult } from '../study';

const TESTS = ['is above', 'is below', 'is inside', 'is outside'] as const;
const bound = (label: string) =>
  field(z.number().min(-1e12).max(1e12), { label, editor: 'number', unitFrom: 'channel' });

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  test: field(z.enum(TESTS), { label: 'Test', editor: 'choice', options: TESTS }),
  level: bound('Level'),
  high: bound('Upper end'),
  hysteresis: field(z.number().min(0, 'At least 0.').max(1e12), {
    label: 'Hysteresis',
    editor: 'number',
    unitFrom: 'channel',
    help: 'How far the signal has to come back before an event ends.',
  }),
  least: field(z.number().min(0, 'At least 0 s.').max(1e6), {
    label: 'Shortest event',
    editor: 'number',
    unit: 's',
    help: 'Shorter ones are not counted.',
  }),
  others: field(z.array(z.string()).max(24), {
    label: 'Statistics of',
    editor: 'channels',
    help: 'Lowest, mean and highest of these in each event.',
  }),
  ...spanFields,
});

/** More events than this are counted, but not listed one by one. */
const LISTED = 2000;

/** Spans in which a channel is in a region (the test that plans and rules use), with durations, intervals, and statistics of channels in each.
 *  Missing samples change nothing: an event goes on over a gap. */
export const events: StudyKind<typeof schema> = {
  kind: 'events',
  title: 'Events',
  purpose: 'Spans while a condition holds, with statistics.',
  method: [
    {
      says: 'From the sample at which the condition comes to hold, as plans and rules test it, to that at which it ends; statistics of what lies between.',
      source: 'by definition',
    },
  ],
  asks: 'What happens when?',
  sketch: {
    lines: [[0.2, 0.25, 0.2, 0.8, 0.9, 0.85, 0.2, 0.25, 0.2, 0.85, 0.9, 0.8, 0.85, 0.2]],
    behind: [0.5, 0.5],
  },
  sentence: {
    schema,
    template: (s) =>
      `While {channel} {test} {level}${s.test === 'is inside' || s.test === 'is outside' ? ' to {high}' : ''}, hysteresis {hysteresis}, for at least {least}, between {from} and {to}; statistics of {others}.`,
  },
  defaults: { channel: '', test: 'is above', level: 0, high: 1, hysteresis: 0, least: 0, others: [], from: 0, to: null }, // prettier-ignore
  roles: [
    { key: 'channel', takes: 'one' },
    { key: 'others', takes: 'several' },
  ],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const { first, end } = spanOf(input, settings);
    const [low, high] = [Math.min(settings.level, settings.high), Math.max(settings.level, settings.high)];
    const region = {
      'is above': { low: -Infinity, high: settings.level, inside: false },
      'is below': { low: settings.level, high: Infinity, inside: false },
      'is inside': { low, high, inside: true },
      'is outside': { low, high, inside: false },
    }[settings.test];
    const detector = new Detector({ ...region, hysteresis: settings.hysteresis });
    const spans: { from: number; to: number; open: boolean }[] = [];
    const rate = rateHz(input);
    const least = settings.least * rate;
    let began = -1;
    let missing = 0;
    let at = first;
    const close = (to: number, open: boolean) => {
      if (began >= 0 && to - began >= least) spans.push({ from: began, to, open });
      began = -1;
    };
    readSpan(
      input,
      first,
      end,
      (block) => {
        for (let i = 0; i < block.length; i++) {
          if (Number.isNaN(block[i])) missing++;
          if (!detector.next(block[i])) continue;
          if (detector.on) began = at + i;
          else close(at + i, false);
        }
        at += block.length;
      },
      (s) => progress(s * 0.4),
      signal,
    );
    close(end, true);
    const chosen = settings.others.length ? take.signals.others : take.signals.others.slice(0, 8);
    const listed = spans.slice(0, LISTED);
    const statistics = chosen.map((other, k) =>
      listed.map(({ from, to }, j) => {
        const m = new Moments();
        const part = samplesWithin(other, sampleS(input, from), sampleS(input, to));
        if (part.end > part.first) readSpan(other, part.first, part.end, (b) => m.push(b), () => undefined, signal); // prettier-ignore
        progress(0.4 + (0.6 * (k + (j + 1) / listed.length)) / chosen.length);
        return m;
      }),
    );
    const durations = spans.map((s) => (s.to - s.from) / rate);
    const total = durations.reduce((a, b) => a + b, 0);
    const intervals = spans.slice(1).map((s, k) => (s.from - spans[k].from) / rate);
    const mean = (list: number[]) => list.reduce((a, b) => a + b, 0) / list.length;
    const findings: Finding[] = [
      {
        label: 'Events',
        value: spans.length,
        unit: '1',
        note: spans.some((s) => s.open) ? 'the last one still holds at the end' : undefined,
      },
      {
        label: 'Holds for',
        value: total,
        unit: 's',
        note: `${((100 * total * rate) / (end - first)).toPrecision(3)} % of the span`,
      },
      ...(spans.length
        ? [
            {
              label: 'Longest',
              value: durations.reduce((a, b) => Math.max(a, b), 0),
              unit: 's',
              note: `mean ${Number(mean(durations).toPrecision(4))} s`,
            },
          ]
        : []),
      ...(intervals.length
        ? [{ label: 'From one to the next', value: mean(intervals), unit: 's', note: 'mean' }]
        : []),
      ...(missing
        ? [{ label: 'Missing', value: missing, unit: '1', note: 'samples; events go on over them' }]
        : []),
    ];
    const number = (v: number) => (Number.isFinite(v) ? v : null);
    const table: ResultTable = {
      title: 'Events',
      columns: [
        numeric('From', 's'),
        numeric('To', 's'),
        numeric('Lasts', 's'),
        numeric('To the next', 's'),
        words('Ends'),
        ...chosen.flatMap((o) => [
          numeric(`${o.name}, lowest`, o.unit),
          numeric('mean', o.unit),
          numeric('highest', o.unit),
        ]),
      ],
      rows: listed.map((s, j) => [
        sampleS(input, s.from),
        sampleS(input, s.to),
        (s.to - s.from) / rate,
        number(intervals[j] ?? NaN),
        s.open ? 'with the span' : 'by itself',
        ...statistics.flatMap((of) => [
          number(of[j].min),
          of[j].count ? of[j].mean : null,
          number(of[j].max),
        ]),
      ]),
    };
    return {
      findings,
      figures: [
        {
          title: 'How long each lasts',
          x: { label: 'Time', unit: 's', scale: 'time' },
          y: { label: 'Lasts', unit: 's', scale: 'linear', min: 0 },
          marks: [{ mark: 'stems', name: input.name, unit: 's', colour: input.colour, x: Float64Array.from(listed, (s) => sampleS(input, s.from)), y: Float64Array.from(durations.slice(0, LISTED)) }], // prettier-ignore
        },
      ],
      tables: [table],
      spans: listed.map((s, k) => ({
        fromS: sampleS(input, s.from),
        toS: sampleS(input, s.to),
        says: `${input.name} ${settings.test} ${settings.level}${settings.test.endsWith('side') ? ` to ${settings.high}` : ''} ${input.unit === '1' ? '' : `${input.unit} `}(${k + 1} of ${spans.length})`,
      })),
    };
  },
};
