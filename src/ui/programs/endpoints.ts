/** An endpoint as the page lists it. */
export interface EndpointLine {
  key: string;
  method: string;
  path: string;
  says: string;
  need: string;
  values: {
    name: string;
    where: 'in the path' | 'after the question mark';
    required: boolean;
    says: string;
  }[];
  /** The schema of what is sent along, as JSON; null where nothing is. */
  body: string | null;
  answer: string;
}

interface Written {
  type?: string | string[];
  description?: string;
  enum?: unknown[];
  default?: unknown;
}
interface Operation {
  summary: string;
  description: string;
  parameters?: { name: string; in: string; required: boolean; schema: Written }[];
  requestBody?: { content: Record<string, { schema: unknown }> };
  responses: Record<string, { content?: Record<string, { schema: Written }> }>;
}

/** The lines of an OpenAPI document, in its order. @param document as the server writes it */
export function endpointsOf(document: unknown): EndpointLine[] {
  const { paths } = document as { paths: Record<string, Record<string, Operation>> };
  return Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, of]): EndpointLine => {
      const [media, sent] = Object.entries(of.requestBody?.content ?? {})[0] ?? [];
      const [kind, answer] = Object.entries(of.responses[200]?.content ?? {})[0] ?? [];
      return {
        key: `${method} ${path}`,
        method: method.toUpperCase(),
        path,
        says: of.summary,
        need: of.description,
        values: (of.parameters ?? []).map((p) => ({
          name: p.name,
          where: p.in === 'path' ? 'in the path' : 'after the question mark',
          required: p.required,
          says: saysOf(p.schema),
        })),
        body: sent ? (media === 'application/json' ? JSON.stringify(sent.schema, null, 1) : `a file (${media})`) : null, // prettier-ignore
        answer: kind === 'application/json' ? (answer.schema.description ?? 'JSON').toLowerCase().replace(/\.$/, '') : `a file (${kind})`, // prettier-ignore
      };
    }),
  );
}

function saysOf({ type, description, enum: choices, default: usual }: Written): string {
  const kind = choices ? choices.map(String).join(', ') : [type ?? 'any'].flat().join(' or ');
  return [kind, usual === undefined || usual === '' ? '' : `${JSON.stringify(usual)} where it is not said`, description ?? ''].filter(Boolean).join('; '); // prettier-ignore
}
