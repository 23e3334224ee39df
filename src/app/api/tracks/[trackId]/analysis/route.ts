import { success } from "@/core/outcome";
import { database } from "@/server/database";
import { guarded, respond } from "@/server/http";
import { cancelAnalysis, requestAnalysis } from "@/server/queue";
import { fileHashOf } from "@/server/corrections";

type Context = { params: Promise<{ trackId: string }> };

const withFile = (act: (hash: string) => Promise<void>) =>
  guarded<Context>(async (_request, { params }) => {
    const hash = await fileHashOf(await database(), (await params).trackId);
    if (!hash.ok) return respond(hash);
    await act(hash.value);
    return respond(success(null));
  });

/** Analyses the file of a track again. */
export const POST = withFile(requestAnalysis);

/** Cancels the analysis of the file of a track. */
export const DELETE = withFile(cancelAnalysis);
