import { takeWindow } from '$service/takes';
import { numberList, route } from '../../../../http';

/** Extremes of a span: u32 length of the JSON head, the head, then for each signal its minima and maxima as float32. */
export const GET = route(({ locals, params, url }) => {
  const q = url.searchParams;
  const parts = takeWindow(
    locals.app,
    params.id!,
    numberList(q.get('signals')),
    Number(q.get('from')),
    Number(q.get('to')),
    Math.round(Number(q.get('width'))),
    q.get('as') === 'recorded' ? 'as recorded' : 'as corrected',
  );
  const head = new TextEncoder().encode(
    JSON.stringify(
      parts.map((p) => ({ signal: p.signal, fromS: p.fromS, stepS: p.stepS, buckets: p.min.length })),
    ),
  );
  const bytes = new Uint8Array(4 + head.length + parts.reduce((sum, p) => sum + p.min.byteLength * 2, 0));
  new DataView(bytes.buffer).setUint32(0, head.length, true);
  bytes.set(head, 4);
  let at = 4 + head.length;
  for (const { min, max } of parts)
    for (const side of [min, max]) {
      bytes.set(new Uint8Array(side.buffer, side.byteOffset, side.byteLength), at);
      at += side.byteLength;
    }
  return new Response(bytes, {
    headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
  });
});
