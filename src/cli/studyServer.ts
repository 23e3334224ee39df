/** How the `study` command reaches a server: the one that is running, or one within its own process. */
import { sentenceOf } from "@/core/outcome";
import { authorization } from "@/server/password";
import { giveUp } from "./terminal";

export interface Sent {
  /** A file's bytes, and how many. */
  body?: ReadableStream<Uint8Array>;
  size?: number;
  json?: unknown;
}

/** Asks the server, as a page does. */
export type Call = (method: "GET" | "POST" | "PUT", address: string, sent?: Sent) => Promise<Response>;

const usualServer = "http://127.0.0.1:3000";

function requestOf(base: string, method: string, address: string, { body, size, json }: Sent = {}): Request {
  const { host } = new URL(base);
  const password = process.env.PLAIN_MIRROR_PASSWORD;
  const content = body ?? (json === undefined ? undefined : JSON.stringify(json));
  return new Request(base + address, {
    method,
    // The server answers to its own name, and takes changes from its own pages alone.
    headers: {
      host,
      origin: base,
      ...(password ? { authorization: authorization(password) } : {}),
      ...(size === undefined ? {} : { "content-length": String(size) }),
    },
    ...(content === undefined ? {} : { body: content, duplex: "half" }),
  } as RequestInit);
}

async function isRunning(base: string): Promise<boolean> {
  const answer = await fetch(requestOf(base, "GET", "/api/studies"), {
    signal: AbortSignal.timeout(3000),
  }).catch(() => null);
  if (answer?.status === 401) giveUp(`The server at ${base} asks for a password: set PLAIN_MIRROR_PASSWORD.`);
  return answer?.ok ?? false;
}

type Handler = (request: Request, context: { params: Promise<Record<string, string>> }) => Promise<Response>;

/** The routes that the command uses, by what their addresses look like. */
async function ownRoutes(): Promise<{ pattern: RegExp; handlers: Record<string, Handler> }[]> {
  const routes = await Promise.all([
    import("@/app/api/studies/route"),
    import("@/app/api/studies/[studyId]/route"),
    import("@/app/api/studies/[studyId]/items/route"),
    import("@/app/api/studies/[studyId]/edits/route"),
    import("@/app/api/studies/[studyId]/report/route"),
    import("@/app/api/studies/[studyId]/archive/route"),
  ]);
  const under = (name: string) => new RegExp(`^/api/studies/([^/]+)${name}$`);
  const patterns = [/^\/api\/studies$/, ...["", "/items", "/edits", "/report", "/archive"].map(under)];
  return routes.map((handlers, i) => ({
    pattern: patterns[i]!,
    handlers: handlers as unknown as Record<string, Handler>,
  }));
}

/** Asks the routes of this process, without a server between. */
export async function ownCall(): Promise<Call> {
  const routes = await ownRoutes();
  return (method, address, sent) => {
    const { pathname } = new URL(address, usualServer);
    const route = routes.find(({ pattern }) => pattern.test(pathname))!;
    const [, studyId = ""] = route.pattern.exec(pathname)!;
    const params: Record<string, string> = studyId === "" ? {} : { studyId };
    const request = requestOf(usualServer, method, address, sent);
    return route.handlers[method]!(request, { params: Promise.resolve(params) });
  };
}

/** A server within this process, on the data folder. */
async function ownServer(): Promise<{ call: Call; end(): Promise<void> }> {
  // Taking mixes apart goes on for long after what was asked for is known.
  process.env.PLAIN_MIRROR_LENS ??= "asked";
  const { start, stop } = await import("@/server/start");
  const { database } = await import("@/server/storage/database");
  const { storageTroubleIn } = await import("@/server/storage/trouble");
  try {
    await database();
  } catch (error) {
    const trouble = storageTroubleIn(error);
    if (trouble) giveUp(sentenceOf(trouble.refusal));
    throw error;
  }
  await start();
  return { call: await ownCall(), end: stop };
}

/**
 * @param named address of a server; else that in PLAIN_MIRROR_URL, or the usual one where it runs.
 */
export async function caller(named: string | undefined): Promise<{ call: Call; end(): Promise<void> }> {
  const wanted = named ?? process.env.PLAIN_MIRROR_URL;
  const base = (wanted ?? usualServer).replace(/\/+$/, "");
  if (!URL.canParse(base)) return giveUp(`${base}: this is no address of a server.`);
  // Where a data folder is named, that one is used, whatever runs elsewhere.
  const isMeant = wanted !== undefined || process.env.PLAIN_MIRROR_DATA === undefined;
  if (isMeant && (await isRunning(base)))
    return {
      call: (method, address, sent) => fetch(requestOf(base, method, address, sent)),
      end: () => Promise.resolve(),
    };
  if (wanted !== undefined) return giveUp(`No server answers at ${base}.`);
  return ownServer();
}
