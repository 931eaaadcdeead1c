/** A file that is being made, or waits to be taken. */
export interface OutgoingState {
  id: string;
  /** What it will be called. */
  name: string;
  state: 'making' | 'ready' | 'failed';
  /** Of what is read, 0 to 1. */
  share: number;
  bytes: number | null;
  /** What is to be said of it: what could not be written as it was wanted. */
  says: string[];
  fault: { what: string; where?: string; why?: string; next?: string } | null;
}

/** As what a report is written: pages on paper, slides, one page of the web that stands alone. */
export const REPORT_KINDS = ['pdf', 'slides', 'page'] as const;
export type ReportKind = (typeof REPORT_KINDS)[number];
export const EXTENSIONS: Record<ReportKind, string> = { pdf: 'pdf', slides: 'pptx', page: 'html' };
