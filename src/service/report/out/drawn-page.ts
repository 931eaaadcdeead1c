import type { Readable } from '$core/pages/hover';
import type { Link } from '$core/pages/sheet';

/** What a part of a page is to whoever cannot see it. */
export type Part = 'drawing' | 'words' | 'beside';

/** A block as it was drawn, points of the page. */
export interface DrawnBlock {
  x: number;
  y: number;
  /** Vectors, without what stands around them. */
  content: string;
  part: Part;
  /** What it is, in words. */
  alt: string;
  links: Link[];
  anchors: string[];
  readable: Readable[];
}
/** A page as it was drawn for a take: the same on every kind of paper. */
export interface DrawnPage {
  title: string;
  width: number;
  height: number;
  frame: string;
  blocks: DrawnBlock[];
}
