import { notFound } from '../errors';
import { bands } from './bands/bands';
import { blocks } from './blocks/blocks';
import { cepstrum } from './cepstrum/cepstrum';
import { counting } from './counting/counting';
import { damage } from './damage/damage';
import { distribution } from './distribution/distribution';
import { elsewhere } from './elsewhere/elsewhere';
import { envelope } from './envelope/envelope';
import { events } from './events/events';
import { frequencyResponse } from './frequency-response/frequency-response';
import { orders } from './orders/orders';
import { pulses } from './pulses/pulses';
import { rainflow } from './rainflow/rainflow';
import { relation } from './relation/relation';
import { shock } from './shock/shock';
import { sound } from './sound/sound';
import { spectrumOverTime } from './spectrum-over-time/spectrum-over-time';
import { spectrum } from './spectrum/spectrum';
import { statistics } from './statistics/statistics';
import { timeAtLevel } from './time-at-level/time-at-level';
import type { StudyKind } from './study';

/** Every kind of study there is, in the order of the list; a new kind is one line here. */
export const STUDY_KINDS = [
  statistics,
  blocks,
  distribution,
  bands,
  sound,
  shock,
  timeAtLevel,
  counting,
  rainflow,
  damage,
  spectrum,
  spectrumOverTime,
  envelope,
  cepstrum,
  frequencyResponse,
  relation,
  orders,
  events,
  pulses,
  elsewhere,
] as unknown as readonly StudyKind[];

/** @throws `not_found` */
export function studyKind(kind: string): StudyKind {
  const found = STUDY_KINDS.find((k) => k.kind === kind);
  if (!found) throw notFound('kind of study', kind);
  return found;
}
