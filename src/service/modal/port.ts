/** What runs of modal analyses, by the id of the set. */
export type ModalRuns = Map<string, ModalRun>;
export interface ModalRun {
  doing: 'correlating' | 'fitting';
  progress: number;
  stop: AbortController;
}
