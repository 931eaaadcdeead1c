import { badInput, conflict } from '$core/errors';
import { compileExpression } from '$core/expression/expression';
import { commonOf, roleOf, type Channel } from '$contract/channel';

/** Checks a formula against the channels there are: names, units, and that it does not lead back to itself.
 *  @throws FormulaError or `bad_input` naming what is wrong */
export function checkFormula(channel: Channel, channels: Channel[]): void {
  const expression = compileExpression(channel.settings.formula as string);
  if (expression.inputs.length === 0)
    throw badInput('formula', channel.settings.formula, 'Name at least one channel, in quotation marks.');
  const byName = new Map(channels.map((c) => [c.name, c]));
  for (const name of expression.inputs) {
    if (name === channel.name) throw badInput('formula', name, 'A channel cannot be computed from itself.');
    if (!byName.has(name))
      throw badInput(
        'formula',
        name,
        `There is no channel of this name. Near to it: ${nearest(name, channels)}.`,
      );
  }
  const path = circle(channel, new Map(byName).set(channel.name, channel), []);
  if (path)
    throw conflict(
      'formula',
      `These channels would need each other: ${path.join(' → ')}.`,
      'Take one of them out of the formula of another.',
    );
  expression.checkUnits((name) => commonOf(byName.get(name)!).unit, commonOf(channel).unit);
  // A filter or window that does not go with the rate is refused here, with its reason, instead of not being measured later.
  expression.start(rateOf(channel, byName));
}

/** The rate at which a channel comes: a computed one has that of its fastest input. */
function rateOf(channel: Channel, byName: Map<string, Channel>): number {
  if (roleOf(channel) !== 'computed') return commonOf(channel).rateHz;
  const { inputs } = compileExpression(channel.settings.formula as string);
  return Math.max(...inputs.map((name) => rateOf(byName.get(name)!, byName)));
}

/** Names of channels that need each other, or null. */
function circle(channel: Channel, byName: Map<string, Channel>, path: string[]): string[] | null {
  if (path.includes(channel.name)) return [...path.slice(path.indexOf(channel.name)), channel.name];
  if (roleOf(channel) !== 'computed') return null;
  for (const name of compileExpression(channel.settings.formula as string).inputs) {
    const next = byName.get(name);
    const found = next && circle(next, byName, [...path, channel.name]);
    if (found) return found;
  }
  return null;
}

function nearest(name: string, channels: Channel[]): string {
  const start = name.toLowerCase().slice(0, 3);
  const close = channels.filter((c) => c.name.toLowerCase().includes(start));
  return (close.length ? close : channels)
    .slice(0, 3)
    .map((c) => `"${c.name}"`)
    .join(', ');
}

/** Channels whose formulas name one of these, with the new names put in. */
export function followNames(channels: Channel[], renamed: Map<string, string>): Channel[] {
  return channels.flatMap((c) => {
    const { formula } = c.settings;
    if (typeof formula !== 'string') return [];
    const next = formula.replace(/"([^"]*)"/g, (all, name: string) =>
      renamed.has(name) ? `"${renamed.get(name)}"` : all,
    );
    return next === formula ? [] : [{ ...c, settings: { ...c.settings, formula: next } }];
  });
}

/** The channel whose formula needs one of these names, if any. */
export const userOf = (channels: Channel[], names: string[]) =>
  channels.find((c) =>
    names.some((name) => String(c.settings.formula ?? '').includes(`"${name}"`) && !names.includes(c.name)),
  );
