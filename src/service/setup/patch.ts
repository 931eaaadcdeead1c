import { isDeepStrictEqual } from 'node:util';
import type { Names } from '$core/sentence/sentence';
import type { Board } from '$contract/board';
import { commonOf, type Channel } from '$contract/channel';
import type { KnownUnit } from '$contract/engine';
import type { Rule } from '$contract/rule';
import type { Scale } from '$contract/scale';
import type { NamedFrame } from '$contract/wireframe';
import type { NamedPlan } from '$store/entities';

/** A change of the set-up: what is put and what is dropped. Its opposite is a patch again, so undo is the same thing. */
export interface SetupPatch {
  units?: KnownUnit[];
  scales?: Scale[];
  channels?: Channel[];
  rules?: { id: string; rule: Rule }[];
  plans?: NamedPlan[];
  boards?: Board[];
  wireframes?: NamedFrame[];
  /** Ids of channels in their new order. */
  order?: string[];
  /** Ids of rules in their new order, in which they act. */
  ruleOrder?: string[];
  drop?: {
    units?: string[];
    scales?: string[];
    channels?: string[];
    rules?: string[];
    plans?: string[];
    boards?: string[];
    wireframes?: string[];
  };
}

export function namesOf(channels: Channel[]): Names {
  const byId = new Map(channels.map((c) => [c.id, { name: c.name, unit: commonOf(c).unit }]));
  return { channel: (id) => byId.get(id) };
}

/** A patch as revisions of earlier versions hold it: they knew one plan. */
export const readPatch = ({ plan, ...patch }: SetupPatch & { plan?: NamedPlan }): SetupPatch =>
  plan ? { ...patch, plans: [...(patch.plans ?? []), plan] } : patch;

/** A plan alone does not touch what is measured: filters and counts go on. */
export const reachesEngine = ({ units, scales, channels, rules, order, ruleOrder, drop = {} }: SetupPatch) =>
  [units, scales, channels, rules, order, ruleOrder, drop.units, drop.channels, drop.rules, drop.scales].some(
    (part) => part && part.length > 0,
  );

/** A patch as it is kept, without what is empty. */
const filled = (patch: SetupPatch): unknown =>
  JSON.parse(
    JSON.stringify(patch, (_, v: unknown) =>
      (Array.isArray(v) && v.length === 0) ||
      (v && typeof v === 'object' && !Array.isArray(v) && Object.keys(v).length === 0)
        ? undefined
        : v,
    ) ?? 'null',
  );
/** Whether a patch changes nothing of what it found. */
export const unchanged = (before: SetupPatch, after: SetupPatch) =>
  isDeepStrictEqual(filled({ ...before, drop: undefined }), filled({ ...after, drop: undefined })) &&
  isDeepStrictEqual(filled({ drop: before.drop }), filled({ drop: after.drop }));
