import { success } from "@/core/outcome";
import { changing, respond } from "@/server/http";
import { cancelAnalysis, requestAgain, studyChangedSoon } from "@/server/jobs/queue";
import { findItem, itemIsGone } from "@/server/study/items";
import { analyseKey } from "@/server/study/keys";

/** Analyses the file of a track or stem again. */
export const POST = changing<{ itemId: string }>(async ({ params, db }) => {
  const item = await findItem(db, params.itemId);
  if (!item) return respond(itemIsGone());
  await requestAgain("analyse", item.fileHash, analyseKey);
  studyChangedSoon(item.studyId);
  return respond(success(null));
});

/** Cancels the analysis of the file of a track or stem. */
export const DELETE = changing<{ itemId: string }>(async ({ params, db }) => {
  const item = await findItem(db, params.itemId);
  if (!item) return respond(itemIsGone());
  await cancelAnalysis(item.fileHash);
  studyChangedSoon(item.studyId);
  return respond(success(null));
});
