/** What all route handlers share: who may ask, how requests are read, how refusals become responses. */
import { z } from "zod";
import contentDisposition from "content-disposition";
import { refuse, success, type Outcome, type Refusal, type RefusalCode } from "@/core/outcome";
import { comesFromOwnPages, isOwnHost } from "./hosts";
import { isAdmitted, passwordHeaders, passwordSentence } from "./password";
import { closeDatabase, database, type Database } from "./storage/database";
import { storageTroubleIn } from "./storage/trouble";

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
  unfinished: 409,
  storage: 507,
  internal: 500,
};

const plainHeaders = { "X-Content-Type-Options": "nosniff", "Referrer-Policy": "same-origin" };

export const refusalResponse = (refusal: Refusal): Response =>
  Response.json({ refusal }, { status: statusOf[refusal.code], headers: plainHeaders });

/** The value as JSON, or the refusal with its status. */
export const respond = <T>(outcome: Outcome<T>, status = 200): Response =>
  outcome.ok
    ? Response.json(outcome.value ?? {}, { status, headers: plainHeaders })
    : refusalResponse(outcome.refusal);

/** What a handler is given. */
export interface Asked<Params> {
  request: Request;
  params: Params;
  query: URLSearchParams;
  db: Database;
}

type NextHandler = (
  request: Request,
  context: { params: Promise<Record<string, string>> },
) => Promise<Response>;

/** Identifiers of rows, hashes of files, names of drums and small numbers, and a version that stands in: nothing else stands in addresses of routes. */
const parameter = z.string().regex(/^[A-Za-z0-9-]{1,64}(~\d{1,6})?$/);

const notAllowed = (sentence: string) => refusalResponse(refuse("not-allowed", sentence).refusal);
const passwordNeeded = () =>
  Response.json(
    { refusal: refuse("not-allowed", passwordSentence).refusal },
    { status: 401, headers: { ...plainHeaders, ...passwordHeaders } },
  );
const noSuchAddress = () =>
  refusalResponse(
    refuse("not-found", "There is nothing at this address.", "Go back to the list of studies.").refusal,
  );

/** Turns what was thrown into an answer; only bugs are logged. */
async function answerFor(error: unknown): Promise<Response> {
  const trouble = storageTroubleIn(error);
  if (trouble) {
    // A connection that met trouble may go on meeting it; the next request opens another.
    await closeDatabase();
    return refusalResponse(trouble.refusal);
  }
  console.error("a request failed", error);
  return refusalResponse(
    refuse("internal", "Something went wrong in Plain Mirror, and nothing was changed.", "Try again.")
      .refusal,
  );
}

function handler<Params>(
  isChange: boolean,
  handle: (asked: Asked<Params>) => Promise<Response>,
): NextHandler {
  return async (request, context) => {
    try {
      if (!isOwnHost(request.headers.get("host")))
        return notAllowed("Plain Mirror answers only under its own name; see PLAIN_MIRROR_HOSTS.");
      if (!isAdmitted(request.headers)) return passwordNeeded();
      if (isChange && !comesFromOwnPages(request.headers))
        return notAllowed("Changes are accepted only from Plain Mirror's own pages.");
      const params = (await context?.params) ?? {};
      if (!z.record(z.string(), parameter).safeParse(params).success) return noSuchAddress();
      const query = new URL(request.url).searchParams;
      return await handle({ request, params: params as Params, query, db: await database() });
    } catch (error) {
      return answerFor(error);
    }
  };
}

/** A handler that only reads. */
export const reading = <Params = Record<string, never>>(
  handle: (asked: Asked<Params>) => Promise<Response>,
) => handler(false, handle);

/** A handler that changes something: only the application's own pages may call it. */
export const changing = <Params = Record<string, never>>(
  handle: (asked: Asked<Params>) => Promise<Response>,
) => handler(true, handle);

/** Bytes of a JSON body, unless a route says otherwise. */
const usualBytes = 64 * 1024;

/** Reads a body as text, up to a number of bytes. */
export async function readText(request: Request, mostBytes: number): Promise<Outcome<string>> {
  const tooLong = () =>
    refuse("too-large", `This is more than the ${Math.ceil(mostBytes / 1024)} KB that can be taken here.`);
  if (Number(request.headers.get("content-length") ?? 0) > mostBytes) return tooLong();
  if (!request.body) return success("");
  const reader = (request.body as ReadableStream<Uint8Array>).getReader();
  const pieces: Uint8Array[] = [];
  let bytes = 0;
  for (;;) {
    const read = await reader.read().catch(() => null);
    if (!read) return refuse("cut-off-upload", "The request broke off before all of it had arrived.");
    const { done, value } = read;
    if (done) break;
    bytes += value.length;
    if (bytes > mostBytes) {
      await reader.cancel();
      return tooLong();
    }
    pieces.push(value);
  }
  return success(Buffer.concat(pieces).toString("utf8"));
}

/** Reads a JSON body through a schema. */
export async function readJson<T extends z.ZodType>(
  request: Request,
  schema: T,
  mostBytes = usualBytes,
): Promise<Outcome<z.infer<T>>> {
  const text = await readText(request, mostBytes);
  if (!text.ok) return text;
  const notUnderstood = (why: string) => refuse("bad-request", `This can't be saved: ${why}.`);
  try {
    const parsed = schema.safeParse(JSON.parse(text.value));
    return parsed.success
      ? success(parsed.data)
      : notUnderstood(parsed.error.issues[0]?.message ?? "the request is not understood");
  } catch {
    // Not JSON, or nested deeper than anything that is sent from here.
    return notUnderstood("the request is not understood");
  }
}

/** Reads the query of an address through a schema. */
export function readQuery<T extends z.ZodType>(
  query: URLSearchParams,
  schema: T,
  sentence: string,
): Outcome<z.infer<T>> {
  const parsed = schema.safeParse(Object.fromEntries(query));
  return parsed.success ? success(parsed.data) : refuse("bad-request", sentence);
}

/** A file for the browser to save. */
export interface SavedFile {
  name: string;
  type: string;
  bytes: Uint8Array<ArrayBuffer>;
}

export const fileResponse = ({ name, type, bytes }: SavedFile): Response =>
  new Response(bytes, {
    headers: { ...plainHeaders, "Content-Type": type, "Content-Disposition": contentDisposition(name) },
  });

/** A file for the browser to save that is made while it is sent. */
export const streamResponse = ({
  name,
  type,
  stream,
}: Omit<SavedFile, "bytes"> & { stream: ReadableStream<Uint8Array> }): Response =>
  new Response(stream, {
    headers: { ...plainHeaders, "Content-Type": type, "Content-Disposition": contentDisposition(name) },
  });

/** Bytes that never change under their address. */
export const bytesResponse = (
  bytes: Uint8Array<ArrayBuffer>,
  headers: Record<string, string> = {},
): Response =>
  new Response(bytes, {
    headers: {
      ...plainHeaders,
      "Content-Type": "application/octet-stream",
      "Cache-Control": "private, max-age=31536000, immutable",
      ...headers,
    },
  });
