import { takeWindow } from '$service/takes';
import { serve } from '../../../../serve';

export const GET = serve(
  'GET /api/takes/[id]/window',
  ({ app, params, query: { signals, from, to, width, as } }) => {
    const parts = takeWindow(app, params.id, signals, from, to, Math.round(width), as);
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
  },
);
