import { eq } from "drizzle-orm";
import { z } from "zod";
import { listeningParts } from "@/core/formats/pieces";
import { refuse } from "@/core/outcome";
import { database } from "@/server/database";
import { refusalResponse } from "@/server/http";
import { readPiece } from "@/server/listeningCopy";
import { listeningPath } from "@/server/places";
import { runInWorker } from "@/server/queue";
import { files } from "@/server/schema";

const addressSchema = z.object({
  piece: z.coerce.number().int().min(0).max(100_000),
  part: z.enum(listeningParts).default("whole"),
});

/** A piece of a file's decoded samples, whole or its percussive or sustained part; empty past the end. */
export async function GET(
  request: Request,
  { params }: { params: Promise<{ hash: string; piece: string }> },
) {
  const { hash, piece } = await params;
  const part = new URL(request.url).searchParams.get("part") ?? undefined;
  const asked = addressSchema.safeParse({ piece, part });
  if (!asked.success) {
    return refusalResponse(refuse("bad-request", "There is no such piece of a file.").refusal);
  }
  const [row] = await (await database()).select({ hash: files.hash }).from(files).where(eq(files.hash, hash));
  const gone = () => refusalResponse(refuse("not-found", "This file cannot be listened to yet.").refusal);
  if (!row) return gone();
  const path = listeningPath(hash);
  try {
    const bytes =
      asked.data.part === "whole"
        ? await readPiece(path, asked.data.piece)
        : await runInWorker<Uint8Array<ArrayBuffer>>("readPart", {
            path,
            piece: asked.data.piece,
            part: asked.data.part,
          });
    return new Response(bytes, {
      headers: { "Content-Type": "application/octet-stream", "Cache-Control": "private, max-age=3600" },
    });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ENOENT") return gone();
    throw error;
  }
}
