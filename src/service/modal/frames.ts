import { randomUUID } from 'node:crypto';
import { badInput, conflict } from '$core/errors';
import { readStructure, writeStructure } from '$core/formats/uff/structure';
import { findingsOf, type FrameChannel, type FrameFinding } from '$core/wireframe/check';
import { FrameBody, type NamedFrame } from '$contract/wireframe';
import { commonOf } from '$contract/channel';
import { listAnalyses } from '$store/modal';
import { getWireframe, listWireframes } from '$store/wireframes';
import { getTake } from '$store/takes';
import { jobOf, type App } from '../app';
import { check } from '../check';
import { change, channelsOf } from '../setup/change';
import { openTake } from '../takes';
import { isForce, isMotion } from './inputs';

/** A channel that can be put onto a wireframe. */
export interface FrameChannelView extends FrameChannel {
  id: string;
  /** Where it comes from: the job, or a take’s name. */
  from: string;
}

/** Channels of the job, and of takes that analyses use or that are named. */
export function frameChannels(app: App, take: string | null): FrameChannelView[] {
  const found = new Map<string, FrameChannelView>();
  const add = (id: string, name: string, unit: string, from: string) => {
    if (!found.has(id)) found.set(id, { id, name, unit, moves: isMotion(unit), drives: isForce(unit), from });
  };
  for (const c of channelsOf(app)) add(c.id, c.name, commonOf(c).unit, 'this job');
  const used = listAnalyses(app.db, jobOf(app).id).flatMap((a) => a.body.sets.flatMap((s) => s.spans.map((p) => p.take))); // prettier-ignore
  for (const id of new Set([...(take ? [take] : []), ...used])) {
    try {
      const { name } = getTake(app.db, id);
      for (const s of openTake(app, id).signals) if (s.channelId && s.width === 1) add(s.channelId, s.name, s.unit, name); // prettier-ignore
    } catch {
      // A take that cannot be read offers nothing.
    }
  }
  return [...found.values()];
}

export interface FrameView {
  frame: NamedFrame;
  findings: FrameFinding[];
}
const viewFrame = (app: App, frame: NamedFrame, take: string | null = null): FrameView => ({
  frame,
  findings: findingsOf(frame, new Map(frameChannels(app, take).map((c) => [c.id, c]))),
});
export const framesOf = (app: App): FrameView[] =>
  listWireframes(app.db, jobOf(app).id).map((f) => viewFrame(app, f));
/** @throws `not_found` */
export const frameOf = (app: App, id: string, take: string | null): FrameView =>
  viewFrame(app, getWireframe(app.db, id), take);

/** Adds a wireframe; undo takes it back. @throws `bad_input` */
export async function addFrame(app: App, body: FrameBody, by: string): Promise<FrameView> {
  const frame: NamedFrame = { ...check(FrameBody, body), id: randomUUID() };
  alone(app, frame);
  await change(app, { wireframes: [frame] }, 'setup', frame.id, `Added the wireframe “${frame.name}”.`, by);
  return viewFrame(app, frame);
}

/** Writes a wireframe over; undo brings the former one back. @throws `bad_input`, `not_found` */
export async function putFrame(
  app: App,
  id: string,
  body: FrameBody,
  says: string,
  by: string,
): Promise<FrameView> {
  // prettier-ignore
  const before = getWireframe(app.db, id);
  const frame: NamedFrame = { ...check(FrameBody, body), id };
  alone(app, frame);
  await change(app, { wireframes: [frame] }, 'setup', id, `Wireframe “${before.name}”: ${says || 'changed'}.`, by); // prettier-ignore
  return viewFrame(app, frame);
}
function alone(app: App, { id, name }: NamedFrame): void {
  if (listWireframes(app.db, jobOf(app).id).some((f) => f.name === name && f.id !== id))
    throw conflict('name', `There is a wireframe “${name}” already.`, 'Choose another name.');
}

/** @throws `not_found` */
export async function removeFrame(app: App, id: string, by: string): Promise<void> {
  const { name } = getWireframe(app.db, id);
  await change(app, { drop: { wireframes: [id] } }, 'setup', id, `Removed the wireframe “${name}”.`, by);
}

/** A wireframe out of a universal file; sensors are put onto it by hand. @throws `bad_input` for a file without nodes, `damaged` */
export function readFrame(bytes: Uint8Array, name: string): FrameBody {
  const source = { name, length: bytes.length, read: (at: number, n: number) => bytes.subarray(at, at + n) };
  const { points, lines } = readStructure(source);
  if (points.length === 0)
    throw badInput('file', name, 'It holds no nodes (datasets 15 or 2411): choose a universal file of a structure.'); // prettier-ignore
  return check(FrameBody, {
    name: name.replace(/\.[^.]*$/, '').slice(0, 60) || 'Wireframe',
    points: points.map((p) => ({ ...p, part: '', at: [...p.at] })),
    lines,
    surfaces: [],
    sensors: [],
  });
}

/** A wireframe as a universal file. @throws `not_found` */
export function frameFile(app: App, id: string): { name: string; text: string } {
  const frame = getWireframe(app.db, id);
  return { name: `${frame.name.replace(/[^\w .-]/g, '')}.unv`, text: writeStructure(frame) };
}
