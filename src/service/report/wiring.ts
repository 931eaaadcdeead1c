import type { Content, TDocumentDefinitions } from 'pdfmake/interfaces';
import { notFound } from '$core/errors';
import { channelKind, roleOf, wiresOf, type Channel } from '$contract/channel';
import { PAPER } from '$contract/palette';
import type { UnitDescription } from '$contract/unit';
import { jobOf, type App } from '../app';
import { channelsOf } from '../setup/change';
import { unitDrawing, type DrawnTerminal } from './unit-drawing';
import { PAGE, footer, makePdf, stamp } from './document';

const WIDTH = 499;

/** What hangs on each terminal of a unit and how it stands. */
function terminalsOf(app: App, unit: UnitDescription, answering: boolean): Map<string, DrawnTerminal> {
  const drawn = new Map<string, DrawnTerminal>();
  for (const c of channelsOf(app)) {
    if (c.wire?.unit !== unit.serial) continue;
    const state = app.live.state(c.id);
    const trouble = state === 'open' || state === 'short' || state === 'over range' || state === 'silent';
    drawn.set(c.wire.terminal, {
      id: c.wire.terminal,
      name: c.name,
      state: !answering ? 'lost' : roleOf(c) === 'driven' ? 'driven' : trouble ? 'trouble' : 'reading',
    });
  }
  return drawn;
}

/** Terminal drawing and the job's wiring list of one unit, as a PDF for the cabinet door. @throws `not_found` when it is not found now */
export async function wiringPdf(app: App, serial: string): Promise<{ name: string; pdf: Buffer }> {
  const unit = app.live.status.units.find((u) => u.description.serial === serial);
  if (!unit) throw notFound('unit', serial);
  const { description } = unit;
  const job = jobOf(app);
  const channels = channelsOf(app).filter((c) => c.wire?.unit === serial);
  const drawing = unitDrawing(description, terminalsOf(app, description, unit.answering));
  const now = new Date();
  const definition: TDocumentDefinitions = {
    info: { title: `Wiring of ${description.name}, ${job.name}`, creator: 'Farrier', producer: 'Farrier' },
    ...PAGE,
    pageMargins: [48, 40, 48, 46],
    footer: footer(now),
    content: [
      { text: `${description.name} · ${serial}`, fontSize: 17, bold: true },
      {
        text: `${job.name}, ${job.place}. Wiring on ${stamp(now)}. ${channels.length} channels.`,
        style: 'muted',
        margin: [0, 0, 0, 8],
      },
      ...(description.modules.length
        ? [
            {
              svg: drawing.svg,
              fit: [WIDTH, 300] as [number, number],
              margin: [0, 0, 0, 8] as [number, number, number, number],
            },
          ]
        : []),
      list(channels, description),
      ...(channels.some((c) => channelKind(c.kind).powerFirst)
        ? [
            {
              text: 'Take the supply off before wires marked with ! are touched.',
              color: PAPER.red,
              margin: [0, 6, 0, 0] as [number, number, number, number],
            },
          ]
        : []),
    ],
  };
  return { name: `wiring ${serial}.pdf`, pdf: await makePdf(definition) };
}

function list(channels: Channel[], unit: UnitDescription): Content {
  const contacts = new Map(unit.modules.flatMap((m) => m.terminals.map((t) => [t.id, t.contacts] as const)));
  const head = ['Terminal', 'Channel', 'Sensor', 'Wires'].map((text) => ({ text, style: 'head' }));
  const small = channels.length > 24 ? 6.5 : 8;
  const rows = [...channels]
    .sort((a, b) => a.wire!.terminal.localeCompare(b.wire!.terminal, undefined, { numeric: true }))
    .map((c) => {
      const kind = channelKind(c.kind);
      return [
        { text: c.wire!.terminal, style: 'cell' },
        c.name,
        `${kind.title(c.settings)}${c.sensorSerial ? `, ${c.sensorSerial}` : ''}`,
        `${kind.powerFirst ? '! ' : ''}${wiresOf(c, contacts.get(c.wire!.terminal))
          .map((w) => `${w.terminal} ${w.to}`)
          .join(' · ')}`,
      ];
    });
  return {
    table: { headerRows: 1, widths: [52, 130, 120, '*'], body: [head, ...rows] },
    layout: 'lightHorizontalLines',
    fontSize: small,
    lineHeight: 1.1,
  };
}
