/** A program that may come in, as it is listed: its secret is not known any more. */
export interface TokenView {
  id: string;
  name: string;
  may: 'read' | 'everything';
  by: string;
  createdAt: number;
  usedAt: number | null;
}
