import { send } from '../api';

export interface WindowPart {
  signal: number;
  times: Float64Array;
  min: Float32Array;
  max: Float32Array;
}

/** Extremes of a span of a take, for drawing. @param recorded by the conversions of the day @throws Fault; AbortError when superseded */
export async function fetchWindow(
  takeId: string,
  signals: number[],
  from: number,
  to: number,
  width: number,
  signal: AbortSignal,
  recorded = false,
): Promise<WindowPart[]> {
  const response = await send(
    'GET /api/takes/[id]/window',
    { params: { id: takeId }, query: { signals, from, to, width, as: recorded ? 'recorded' : undefined } },
    { signal },
  );
  const bytes = await response.arrayBuffer();
  const headLength = new DataView(bytes).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 4, headLength))) as {
    signal: number;
    fromS: number;
    stepS: number;
    buckets: number;
  }[];
  let at = 4 + headLength;
  const floats = (n: number) => {
    const part = new Float32Array(bytes.slice(at, at + n * 4));
    at += n * 4;
    return part;
  };
  return head.map(({ signal: id, fromS, stepS, buckets }) => ({
    signal: id,
    times: Float64Array.from({ length: buckets }, (_, i) => fromS + (i + 0.5) * stepS),
    min: floats(buckets),
    max: floats(buckets),
  }));
}
