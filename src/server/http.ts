/** What all route handlers share: who may change something, how refusals become responses. */
import type { z } from "zod";
import { refuse, type Outcome, type Refusal, type RefusalCode } from "@/core/outcome";

const statusOf: Record<RefusalCode, number> = {
  "not-audio": 415,
  "unsupported-format": 415,
  "needs-ffmpeg": 415,
  "no-samples": 422,
  "too-short": 422,
  "too-long": 422,
  "too-large": 413,
  damaged: 422,
  "not-found": 404,
  "not-allowed": 403,
  "bad-request": 400,
  "already-here": 409,
  cancelled: 409,
  "cut-off-upload": 400,
};

export const refusalResponse = (refusal: Refusal): Response =>
  Response.json({ refusal }, { status: statusOf[refusal.code] });

/** The value as JSON, or the refusal with its status. */
export const respond = <T>(outcome: Outcome<T>, status = 200): Response =>
  outcome.ok ? Response.json(outcome.value ?? {}, { status }) : refusalResponse(outcome.refusal);

const ownHosts = (): string[] => [
  "localhost",
  "127.0.0.1",
  "[::1]",
  ...(process.env.PLAIN_MIRROR_HOSTS ?? "")
    .split(",")
    .map((host) => host.trim())
    .filter(Boolean),
];

/**
 * Whether a request comes from the application's own pages: the Host must be one the server goes
 * by (so that no foreign name can be pointed at it), and the Origin must be that host.
 */
export function comesFromOwnPages(request: Request): boolean {
  const host = request.headers.get("host");
  const origin = request.headers.get("origin");
  if (!host || !origin) return false;
  const name = host.replace(/:\d+$/, "");
  return ownHosts().includes(name) && (origin === `http://${host}` || origin === `https://${host}`);
}

type Handler<Context> = (request: Request, context: Context) => Promise<Response>;

/** Wraps a handler that changes something: only the application's own pages may call it. */
export const guarded =
  <Context>(handler: Handler<Context>): Handler<Context> =>
  async (request, context) => {
    if (!comesFromOwnPages(request)) {
      const { refusal } = refuse("not-allowed", "Changes are accepted only from Plain Mirror's own pages.");
      return refusalResponse(refusal);
    }
    return handler(request, context);
  };

/** Reads a JSON body through a schema. */
export async function readJson<T extends z.ZodType>(
  request: Request,
  schema: T,
): Promise<Outcome<z.infer<T>>> {
  const body: unknown = await request.json().catch(() => undefined);
  const parsed = schema.safeParse(body);
  if (parsed.success) return { ok: true, value: parsed.data };
  const issue = parsed.error.issues[0];
  return refuse("bad-request", `This cannot be saved: ${issue?.message ?? "the request is not understood"}.`);
}

/** A stored curve as raw bytes, or the refusal where the file has none yet. */
export const curveResponse = (curve: Buffer | null): Response =>
  curve
    ? new Response(Uint8Array.from(curve), {
        headers: { "Content-Type": "application/octet-stream", "Cache-Control": "private, max-age=3600" },
      })
    : refusalResponse(refuse("not-found", "This file has not been analysed yet.").refusal);

/** A file for the browser to save. */
export function fileResponse({
  name,
  type,
  bytes,
}: {
  name: string;
  type: string;
  bytes: BodyInit;
}): Response {
  const plain = name.replace(/[^\x20-\x7e]|["\\]/g, "_");
  return new Response(bytes, {
    headers: {
      "Content-Type": type,
      "Content-Disposition": `attachment; filename="${plain}"; filename*=UTF-8''${encodeURIComponent(name)}`,
      "X-Content-Type-Options": "nosniff",
    },
  });
}
