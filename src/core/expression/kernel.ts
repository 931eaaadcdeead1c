/** Values that a kernel reads: a block of numbers in its memory. */
export interface Region {
  /** Bytes from the begin of the memory. */
  at: number;
  /** Bytes a number: 4 or 8. */
  size: 4 | 8;
}
/** Arithmetic of one sample, as a tree. */
export type Kernel = { number: number } | { region: Region } | { of: Operation; args: Kernel[] };

/** What a processor does in one step with numbers of double precision. Comparison and logic give 1 or 0, NaN where a value is missing. */
const NUMERIC = { add: 0xa0, sub: 0xa1, mul: 0xa2, div: 0xa3, neg: 0x9a, abs: 0x99, sqrt: 0x9f, floor: 0x9c, ceil: 0x9b, min: 0xa4, max: 0xa5 } as const; // prettier-ignore
const COMPARING = { eq: 0x61, ne: 0x62, lt: 0x63, gt: 0x64, le: 0x65, ge: 0x66 } as const;
const LOGICAL = { and: 0x71, or: 0x72, xor: 0x73 } as const;
export type Operation =
  keyof typeof NUMERIC | keyof typeof COMPARING | keyof typeof LOGICAL | 'not' | 'choose';

/** Reads some blocks, writes one: n samples. */
export type RunKernel = (samples: number) => void;

/** A little machine code for a tree of arithmetic, so that each sample goes through it in registers instead of from block to block
 *  (WebAssembly core specification 1.0, binary format). No text is ever made into a program.
 *  @throws what the host says where it takes none: its values are computed step by step then */
export function compileKernel(kernel: Kernel, out: Region, memory: WebAssembly.Memory): RunKernel {
  // Locals: 0 the end in samples · 4, 1 the place · 4, 2 the place · 8, then values that are needed twice.
  let locals = 3;
  const code = (k: Kernel): number[] => {
    if ('number' in k) return [0x44, ...new Uint8Array(new Float64Array([k.number]).buffer)];
    if ('region' in k)
      return k.region.size === 4
        ? [0x20, 1, 0x2a, 2, ...leb(k.region.at), 0xbb]
        : [0x20, 2, 0x2b, 3, ...leb(k.region.at)];
    const { of, args } = k;
    if (of in NUMERIC) return [...args.flatMap(code), NUMERIC[of as keyof typeof NUMERIC]];
    // Each value once, kept for the test whether it is missing.
    const kept = args.map((a) => ({ code: code(a), local: locals++ }));
    const get = (i: number) => [0x20, ...leb(kept[i].local)];
    const there = (i: number) => [...get(i), ...get(i), COMPARING.eq];
    const yes = (i: number) => [...get(i), ...code({ number: 0 }), COMPARING.ne];
    const keep = kept.flatMap((v) => [...v.code, 0x21, ...leb(v.local)]);
    const whole = (value: number[], among: number[]) => [
      ...keep,
      ...value,
      ...code({ number: NaN }),
      ...among.flatMap((i, n) => [...there(i), ...(n ? [LOGICAL.and] : [])]),
      0x1b,
    ];
    if (of === 'choose') return whole([...get(1), ...get(2), ...yes(0), 0x1b], [0]);
    const asNumber = 0xb7;
    if (of === 'not') return whole([...get(0), ...code({ number: 0 }), COMPARING.eq, asNumber], [0]);
    const test =
      of in COMPARING
        ? [...get(0), ...get(1), COMPARING[of as keyof typeof COMPARING]]
        : [...yes(0), ...yes(1), LOGICAL[of as keyof typeof LOGICAL]];
    return whole([...test, asNumber], [0, 1]);
  };
  const store = out.size === 4 ? [0xb6, 0x38, 2, ...leb(out.at)] : [0x39, 3, ...leb(out.at)];
  const body = [
    ...[0x03, 0x40], // loop
    ...[0x20, out.size === 4 ? 1 : 2],
    ...code(kernel),
    ...store,
    ...[0x20, 2, 0x41, 8, 0x6a, 0x21, 2],
    ...[0x20, 1, 0x41, 4, 0x6a, 0x22, 1, 0x20, 0, 0x48, 0x0d, 0],
    ...[0x0b, 0x0b],
  ];
  const integers = [2, 0x7f];
  const numbers = locals > 3 ? [...leb(locals - 3), 0x7c] : [];
  const own = [numbers.length ? 2 : 1, ...integers, ...numbers, ...body];
  const bytes = [
    ...[0, 0x61, 0x73, 0x6d, 1, 0, 0, 0],
    ...section(1, [1, 0x60, 1, 0x7f, 0]), // one kind of function: an integer, nothing
    ...section(2, [1, 1, 0x6d, 1, 0x6d, 2, 0, 0]), // the memory, m.m
    ...section(3, [1, 0]),
    ...section(7, [1, 1, 0x66, 0, 0]), // f
    ...section(10, [1, ...leb(own.length), ...own]),
  ];
  const { exports } = new WebAssembly.Instance(new WebAssembly.Module(Uint8Array.from(bytes)), {
    m: { m: memory },
  });
  const f = exports.f as (end: number) => void;
  return (samples) => f(4 * samples);
}

const section = (id: number, content: number[]) => [id, ...leb(content.length), ...content];
/** A whole number from 0 on, seven bits a byte. */
function leb(value: number): number[] {
  const out: number[] = [];
  do {
    const low = value & 0x7f;
    value >>>= 7;
    out.push(value ? low | 0x80 : low);
  } while (value);
  return out;
}
