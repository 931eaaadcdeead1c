import { asFarrierError, type ErrorText } from '$core/errors';
import type { Rehearsal } from '$contract/rehearsal';
import type { SealState } from '$contract/take';
import { findUnitKind } from '$contract/units/kinds';
import { rehearse, type RehearsalTask } from '$engine/rehearsal';
import { TakeReader } from '$store/take/reader';
import { adopt } from './adopt';
import { bringIn } from './bring-in';
import { makeSignals, previewMake } from './inspect/makes';
import { measure } from './inspect/measure';
import { mend, previewMend } from './inspect/mends';
import { adviseReferences, correlateTakes, fitSet, scatterSet, solveSet } from './modal/tasks';
import { growRows } from './field/stations/grow-task';
import { joinStudy, runPart, runStudy } from './study/run';
import { joinFiles, lookIntoFile } from './report/out/join';
import { writePdf } from './report/out/pdf';
import { writeTable } from './study/tables';
import { writeSheets } from './sheets/write';
import { writeTake } from './write-take';
import type { Watched } from './watched';

/** A description file of a unit. */
interface Description {
  kind: string;
  name: string;
  text: string;
}

export type Outcome<T> = { result: T } | { fault: ErrorText };

/** Faults come back from a worker as values, so that they keep their four sentences. */
function told<T>(where: string, work: () => T): Outcome<T> {
  try {
    return { result: work() };
  } catch (error) {
    return { fault: asFarrierError(error, where).text };
  }
}

/** What worker threads do: all that reads a whole take. */
export const WORK = {
  runStudy,
  runPart,
  joinStudy,
  writeTable: ({ path, at, to }: { path: string; at: number; to: string }): Outcome<string> =>
    told(path, () => writeTable(path, at, to)),
  writeSheets,
  writeTake,
  writePdf,
  lookIntoFile,
  joinFiles,
  growRows,
  adviseReferences,
  correlateTakes,
  fitSet,
  solveSet,
  scatterSet,
  adopt,
  bringIn,
  measure,
  mend,
  previewMend,
  makeSignals,
  previewMake,
  rehearse: (task: RehearsalTask, { progress }: Watched): Outcome<Rehearsal> =>
    told('rehearsal', () => rehearse(task, progress)),
  /** Reads a bus's description whole, to find what is wrong with it. @returns how many messages it has */
  checkDatabase: async ({ kind, name, text }: Description): Promise<Outcome<number>> => {
    try {
      return { result: await findUnitKind(kind)!.database!.entries(text, name) };
    } catch (error) {
      return { fault: asFarrierError(error, name).text };
    }
  },
  checkSeal: ({ path }: { path: string }): Outcome<SealState> =>
    told(path, () => {
      const reader = new TakeReader(path);
      try {
        return reader.sealState();
      } finally {
        reader.close();
      }
    }),
};
