import { open } from "node:fs/promises";
import { eq } from "drizzle-orm";
import type { AudioFormat } from "@/core/formats/probe";
import { refuse } from "@/core/outcome";
import { database } from "@/server/database";
import { refusalResponse } from "@/server/http";
import { originalPath, playablePath } from "@/server/places";
import { files } from "@/server/schema";

const types: Record<AudioFormat, string> = {
  wav: "audio/wav",
  aiff: "audio/wav",
  flac: "audio/flac",
  mp3: "audio/mpeg",
  vorbis: "audio/ogg",
  opus: "audio/ogg",
  m4a: "audio/mp4",
};

const pieceBytes = 256 * 1024;

/** The sound of a file for playing, whole or the byte range asked for. */
export async function GET(request: Request, { params }: { params: Promise<{ hash: string }> }) {
  const { hash } = await params;
  const [row] = await (await database()).select().from(files).where(eq(files.hash, hash));
  const gone = () => refusalResponse(refuse("not-found", "This file is not here any more.").refusal);
  if (!row) return gone();
  const file = await open(row.playsInBrowsers ? originalPath(hash) : playablePath(hash), "r").catch(
    () => null,
  );
  if (!file) return gone();
  const { size } = await file.stat();

  const asked = /^bytes=(\d*)-(\d*)$/.exec(request.headers.get("range") ?? "");
  let from = 0;
  let to = size - 1;
  if (asked && (asked[1] || asked[2])) {
    from = asked[1] ? Number(asked[1]) : Math.max(0, size - Number(asked[2]));
    to = asked[1] && asked[2] ? Math.min(size - 1, Number(asked[2])) : size - 1;
    if (from > to || from >= size) {
      await file.close();
      return new Response(null, { status: 416, headers: { "Content-Range": `bytes */${size}` } });
    }
  }
  let at = from;
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const piece = new Uint8Array(Math.min(pieceBytes, to + 1 - at));
      const { bytesRead } = await file.read(piece, 0, piece.length, at);
      at += bytesRead;
      if (bytesRead > 0) controller.enqueue(piece.subarray(0, bytesRead));
      if (bytesRead === 0 || at > to) {
        await file.close();
        controller.close();
      }
    },
    cancel: () => file.close(),
  });
  return new Response(body, {
    status: asked ? 206 : 200,
    headers: {
      "Content-Type": row.playsInBrowsers ? types[row.format] : "audio/wav",
      "Content-Length": String(to + 1 - from),
      "Accept-Ranges": "bytes",
      "Cache-Control": "private, max-age=3600",
      ...(asked ? { "Content-Range": `bytes ${from}-${to}/${size}` } : {}),
    },
  });
}
