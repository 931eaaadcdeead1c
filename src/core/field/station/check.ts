import { ALWAYS, STATION_MODELS, WAYS, stationModel, terminalsFor } from './model';
import { columnsOf, roomOf, rowBytes, valuesOf, type Measure, type Programme, type Table } from './programme';
import { programmeOf, spanOf, type Remark } from './text';

/** A table that is full after less than this is overwritten before anybody comes, s. */
const SHORT_S = 3600;
/** What is taken to settle and to average over mains, beside the measuring itself, ms. */
const SETTLE_MS = 3;

/** How long a station is awake for its measures, s: each analog one averages over a period of the mains. */
export function awakeS({ measures, mainsHz }: Pick<Programme, 'measures' | 'mainsHz'>): number {
  return measures.reduce((sum, { way }) => sum + (WAYS[way].takesMs ? WAYS[way].takesMs + SETTLE_MS + 1000 / mainsHz : 0), 0) / 1000; // prettier-ignore
}

function measureFaults(measure: Measure, programme: Programme, index: number, say: (bad: boolean, says: string) => void): void {
  const model = stationModel(programme.model);
  const { name, unit, way, kind, terminal } = measure;
  if (name === '') say(true, 'A value needs a name.');
  if (programme.measures.findIndex((m) => m.name === name) < index || ALWAYS.some((a) => a.name === name)) say(true, `There are two values called “${name}”.`);
  if (model && name.length > model.lettersMost) say(true, `“${name}” is longer than the ${model.lettersMost} letters that ${model.name} holds.`);
  if (!(WAYS[way].kinds as readonly string[]).includes(kind)) say(true, `“${kind}” is none of ${WAYS[way].kinds.join(', ')}.`);
  if (model) {
    const own = terminalsFor(model, way);
    if (own.length === 0) say(true, `${model.name} has no input for ${WAYS[way].label}.`);
    else if (terminal === '') {
      const taken = new Set(programme.measures.map((m) => m.terminal));
      say(true, `${name} has no terminal${own.some((t) => !taken.has(t)) ? '' : `: all ${own.length} of its kind are taken`}.`);
    } else if (!own.includes(terminal)) say(true, `${terminal} is no terminal for ${WAYS[way].label}: these are ${own[0]} to ${own.at(-1)}.`);
  }
  // Words of one serial sensor come by one terminal.
  const other = programme.measures.find((m, k) => k < index && terminal !== '' && m.terminal === terminal && !(m.way === 'serial' && way === 'serial' && m.kind !== kind));
  if (other) say(true, `${terminal} is taken by ${other.name} already.`);
  if (!Number.isFinite(measure.times) || !Number.isFinite(measure.plus)) say(true, `The factor of ${name} is no number.`);
  else if (measure.times === 0) say(true, `${name} times 0 is always the same.`);
  if ((way === 'thermocouple' || (way === 'resistance' && kind !== 'ohms')) && unit !== '°C' && measure.times === 1) say(false, `${name} is read in °C, but called “${unit}”.`);
  if (!programme.tables.some((t) => (t.moment.kind === 'event' && t.moment.of === name) || t.keeps.some((k) => k.of === name || k.from === name))) say(false, `${name} is measured, but no table keeps it.`);
} // prettier-ignore

function tableFaults(table: Table, programme: Programme, index: number, say: (bad: boolean, says: string) => void): void {
  const model = stationModel(programme.model);
  const { name, moment, rows, keeps } = table;
  const names = new Set(valuesOf(programme).map((v) => v.name));
  if (!/^[\w-]+$/.test(name)) say(true, `A table is called by letters, digits, _ and - alone, not “${name}”.`);
  if (model && name.length > model.lettersMost) say(true, `“${name}” is longer than the ${model.lettersMost} letters that ${model.name} holds.`);
  if (programme.tables.findIndex((t) => t.name === name) < index) say(true, `There are two tables called “${name}”.`);
  if (moment.kind === 'every') {
    if (!(moment.seconds > 0) || Math.abs(moment.seconds / programme.wakeS - Math.round(moment.seconds / programme.wakeS)) > 1e-9) say(true, `${spanOf(moment.seconds)} is no multiple of ${spanOf(programme.wakeS)}, in which it wakes.`);
    else if (86_400 % moment.seconds !== 0 && moment.seconds % 86_400 !== 0) say(false, `${spanOf(moment.seconds)} does not divide a day: rows of the next day stand at other times.`);
  } else if (!names.has(moment.of)) say(true, `${name} waits for ${moment.of || 'a value'}, which is never measured.`);
  if (keeps.length === 0) say(true, `${name} keeps nothing.`);
  const said = new Set<string>();
  for (const { of, as, from } of keeps) {
    if (!names.has(of)) say(true, `${name} keeps ${of || 'a value'}, which is never measured.`);
    if (as === 'wind' && !names.has(from)) say(true, `The wind of ${of} needs a direction; ${from || 'none'} is never measured.`);
    if (as === 'wind' && programme.measures.find((m) => m.name === from && m.unit !== '°')) say(false, `${from} is taken as degrees, but called “${programme.measures.find((m) => m.name === from)!.unit}”.`);
    if (model && !model.keeps.includes(as)) say(true, `${model.name} cannot keep ${as === 'wind' ? 'the vector mean of wind' : `the ${as}`}.`);
    if (said.has(`${as} ${of}`)) say(true, `${name} keeps the ${as} of ${of} twice.`);
    said.add(`${as} ${of}`);
    if (moment.kind === 'event' && as !== 'sample') say(false, `At an event the ${as} of ${of} is that since the row before.`);
  }
  if (!model) return;
  const columns = columnsOf(programme, table).length;
  if (columns > model.columnsMost) say(true, `${name} has ${columns} columns; ${model.name} holds ${model.columnsMost}.`);
  if (rows < 0 || !Number.isInteger(rows)) say(true, `${name} cannot hold ${rows} rows.`);
  const room = roomOf(programme, model)[index];
  if (room < 1 && columns > 0) say(true, `No memory is left for ${name}.`);
  else if (moment.kind === 'every' && room * moment.seconds <= SHORT_S) say(false, `${name} overwrites its oldest row after ${spanOf(room * moment.seconds)}.`);
} // prettier-ignore

/** What is wrong with a programme, and what is worth knowing: the same by whoever asks, Farrier before it sends and the station before it runs.
 *  @param lines of its text, where there is one */
export function remarksOn(programme: Programme, lines?: ReturnType<typeof programmeOf>['lines']): Remark[] {
  const remarks: Remark[] = [];
  const model = stationModel(programme.model);
  const head = (bad: boolean, says: string) => void remarks.push({ bad, says, line: lines?.head ?? null, at: { part: 'head' } }); // prettier-ignore
  const each = (part: 'measure' | 'table', index: number) => (bad: boolean, says: string) => void remarks.push({ bad, says, line: lines?.[`${part}s`][index] ?? null, at: { part, index } }); // prettier-ignore
  if (!model)
    head(true, `“${programme.model}” is no model: there are ${STATION_MODELS.map((m) => m.name).join(', ')}.`); // prettier-ignore
  else {
    if (!(programme.wakeS >= model.shortestWakeS)) head(true, `${model.name} wakes every ${spanOf(model.shortestWakeS)} at most often.`); // prettier-ignore
    if (programme.tables.length > model.tablesMost) head(true, `${programme.tables.length} tables are more than the ${model.tablesMost} of ${model.name}.`); // prettier-ignore
    const bytes = programme.tables.reduce((sum, table) => sum + table.rows * rowBytes(columnsOf(programme, table).length), 0); // prettier-ignore
    if (bytes > model.memory) head(true, `The rows that were asked for take ${Math.ceil(bytes / 1024)} KiB; ${model.name} has ${model.memory / 1024} KiB.`); // prettier-ignore
  }
  if (!Number.isInteger(programme.wakeS)) head(true, 'It wakes every so many whole seconds.');
  const awake = awakeS(programme);
  if (awake > programme.wakeS) head(true, `Its measures take ${awake.toFixed(1)} s, longer than the ${spanOf(programme.wakeS)} in which it wakes.`); // prettier-ignore
  if (programme.tables.length === 0) head(false, 'No table keeps anything yet.');
  programme.measures.forEach((m, k) => measureFaults(m, programme, k, each('measure', k)));
  programme.tables.forEach((t, k) => tableFaults(t, programme, k, each('table', k)));
  return remarks;
}

/** Reads and checks a programme’s text. @returns the programme only where nothing is wrong */
export function compiled(text: string): { programme: Programme | null; remarks: Remark[] } {
  const read = programmeOf(text);
  // Of what cannot be read the rest is not judged: one fault would look like many.
  const remarks = read.remarks.length ? read.remarks : remarksOn(read.programme, read.lines);
  return { programme: remarks.some((r) => r.bad) ? null : read.programme, remarks };
}

/** Gives terminals to the values that have none, in their order, where some are free. */
export function withTerminals(programme: Programme): Programme {
  const model = stationModel(programme.model);
  if (!model) return programme;
  const taken = new Set(programme.measures.map((m) => m.terminal).filter(Boolean));
  return {
    ...programme,
    measures: programme.measures.map((m) => {
      if (m.terminal && terminalsFor(model, m.way).includes(m.terminal)) return m;
      // Words of a serial sensor share its terminal.
      const free = m.way === 'serial' ? terminalsFor(model, m.way)[0] : terminalsFor(model, m.way).find((t) => !taken.has(t)); // prettier-ignore
      if (free) taken.add(free);
      return { ...m, terminal: free ?? '' };
    }),
  };
}
