import { success } from "@/core/outcome";
import { studyState } from "@/models/studyState";
import { changing, reading, respond } from "@/server/http";
import { studyAt } from "@/server/study/address";
import { studyIsGone } from "@/server/study/edit";
import { removeForGood } from "@/server/storage/sweep";

/** What a study holds, how far the work on it is, and what its versions match at. */
export const GET = reading<{ studyId: string }>(async ({ params, db }) => {
  const found = await studyAt(db, params.studyId);
  return respond(found.ok ? success(studyState(found.value)) : found);
});

/** Removes a study that was deleted for good, with its files. Deleting itself is an edit that can be undone. */
export const DELETE = changing<{ studyId: string }>(async ({ params, db }) =>
  respond((await removeForGood(db, params.studyId)) ? success(null) : studyIsGone()),
);
