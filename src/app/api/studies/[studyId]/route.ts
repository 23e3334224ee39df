import { success } from "@/core/outcome";
import { changing, respond } from "@/server/http";
import { studyIsGone } from "@/server/study/edit";
import { removeForGood } from "@/server/storage/sweep";

/** Removes a study that was deleted for good, with its files. Deleting itself is an edit that can be undone. */
export const DELETE = changing<{ studyId: string }>(async ({ params, db }) =>
  respond((await removeForGood(db, params.studyId)) ? success(null) : studyIsGone()),
);
