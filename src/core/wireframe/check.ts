import { placesOf, type Wireframe } from './wireframe';

/** Something about a wireframe that is missing, doubled or does not fit. */
export interface FrameFinding {
  /** It keeps the wireframe from being used, or only takes something from it. */
  severe: boolean;
  says: string;
  next: string;
}
/** A channel as a wireframe needs to know it. */
export interface FrameChannel {
  name: string;
  unit: string;
  /** It measures a motion: acceleration, velocity, displacement or strain. */
  moves: boolean;
  /** It measures a force that drives the structure at its point. */
  drives?: boolean;
}

const some = (names: readonly string[]) =>
  names.length > 3 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ');
const twice = (names: readonly string[]) => [...new Set(names.filter((n, i) => names.indexOf(n) !== i))];

/** What is wrong with a wireframe, worst first. @param channels those of the job by their id */
export function findingsOf(frame: Wireframe, channels: ReadonlyMap<string, FrameChannel>): FrameFinding[] {
  const found: FrameFinding[] = [];
  const say = (severe: boolean, says: string, next: string) => found.push({ severe, says, next });
  const names = new Set(frame.points.map((p) => p.name));
  const parts = new Set(frame.parts.map((p) => p.name));
  const doubled = names.size < frame.points.length ? twice(frame.points.map((p) => p.name)) : [];
  if (doubled.length) say(true, `Two points are called ${some(doubled)}.`, 'Give each a name of its own.');
  const lost = frame.points.filter((p) => p.part !== '' && !parts.has(p.part)).map((p) => p.part);
  if (lost.length)
    say(true, `There is no part ${some([...new Set(lost)])}.`, 'Add it, or let its points be in no part.');
  const missing = (of: readonly string[]) => [...new Set(of.filter((n) => !names.has(n)))];
  const inLines = missing(frame.lines.flat());
  if (inLines.length) say(true, `Lines name points that are not there: ${some(inLines)}.`, 'Add them, or take those lines away.'); // prettier-ignore
  const inSurfaces = missing(frame.surfaces.flat());
  if (inSurfaces.length) say(true, `Surfaces name points that are not there: ${some(inSurfaces)}.`, 'Add them, or take those surfaces away.'); // prettier-ignore
  const inSensors = missing(frame.sensors.map((s) => s.point));
  if (inSensors.length) say(true, `Sensors sit on points that are not there: ${some(inSensors)}.`, 'Put them on others.'); // prettier-ignore
  const nowhere = frame.sensors.filter((s) => !(Math.hypot(...s.direction) > 0));
  const called = (id: string) => channels.get(id)?.name ?? 'a channel that was removed';
  if (nowhere.length) say(true, `${some(nowhere.map((s) => called(s.channel)))} has no direction.`, 'Choose an axis or type a vector.'); // prettier-ignore
  const gone = frame.sensors.filter((s) => !channels.has(s.channel));
  if (gone.length)
    say(false, `${gone.length} of its sensors measure for channels that are not in this job any more.`, 'Take them off, or put other channels there.'); // prettier-ignore
  const again = twice(frame.sensors.map((s) => s.channel));
  if (again.length) say(true, `${some(again.map(called))} sits in two places.`, 'Leave it in one.');
  // Where a force acts is told of it, and nothing else.
  const moving = frame.sensors.filter((s) => !channels.get(s.channel)?.drives);
  const still = moving.filter((s) => channels.get(s.channel)?.moves === false);
  if (still.length)
    say(
      false,
      `${some(still.map((s) => `${called(s.channel)} (${channels.get(s.channel)!.unit})`))} measures no motion.`,
      'Put a channel of acceleration, velocity, displacement or strain there.',
    );
  const units = [...new Set(moving.flatMap((s) => channels.get(s.channel)?.unit ?? []))];
  if (units.length > 1)
    say(false, `Its sensors measure in ${some(units)}.`, 'Correlating brings those of one kind to one unit; shapes of different kinds do not compare.'); // prettier-ignore
  const along = moving.map((s) => {
    const size = Math.hypot(...s.direction) || 1;
    return `${s.point} ${s.direction.map((v) => Math.abs(v / size).toFixed(3)).join()}`;
  });
  if (twice(along).length)
    say(false, `Two sensors look along the same line at ${some(twice(along).map((a) => a.split(' ')[0]))}.`, 'Both count, as one direction: turn or move one if that is not meant.'); // prettier-ignore
  const joined = new Set([...frame.lines.flat(), ...frame.surfaces.flat()]);
  const alone = frame.points.filter((p) => !joined.has(p.name)).map((p) => p.name);
  if (alone.length && frame.points.length > 1)
    say(false, `No line goes to ${some(alone)}.`, 'Draw one, or they move only if a sensor sits on them.');
  const places = [...placesOf(frame).entries()].map(([n, p]) => [n, p.map((v) => v.toFixed(6)).join()]);
  const at = new Map<string, string>();
  const same = places.flatMap(([n, p]) => {
    const other = at.get(p);
    at.set(p, n);
    return other === undefined ? [] : [`${other} and ${n}`];
  });
  if (same.length) say(false, `Points lie in one place: ${some(same)}.`, 'Move one, or take it away.');
  if (frame.points.length > 0 && frame.sensors.length === 0)
    say(false, 'No sensor sits on it yet.', 'Drag a channel onto a point.');
  return found.sort((a, b) => Number(b.severe) - Number(a.severe));
}
