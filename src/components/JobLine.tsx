"use client";

import { ProgressLine } from "./ProgressLine";
import type { JobRecord } from "@/core/study";
import { earlyWords } from "@/models/early";
import { sentenceOf } from "./requests";

/** How far an analysis is, in words and as a line; what to do where it ended without a result. */
export function JobLine({ job, onCancel, onAgain }: { job: JobRecord; onCancel(): void; onAgain(): void }) {
  if (job.state === "done") return null;
  if (job.state === "failed" || job.state === "cancelled") {
    return (
      <p className="small-text needs-attention m-0">
        {job.state === "cancelled"
          ? "The analysis was cancelled."
          : job.refusal
            ? sentenceOf(job.refusal)
            : "The analysis failed."}{" "}
        <button type="button" className="plain-button underlined strong" onClick={onAgain}>
          Analyse again
        </button>
      </p>
    );
  }
  const percent = Math.round(100 * job.done);
  return (
    <div>
      <div className="d-flex justify-content-between small-text">
        <span className="soft">
          {job.message}
          {job.state === "running" ? ` · ${percent} %` : ""}
        </span>
        <button type="button" className="plain-button underlined" onClick={onCancel}>
          Cancel
        </button>
      </div>
      {job.early && <p className="small-text m-0">{earlyWords(job.early)}</p>}
      <ProgressLine done={job.done} label={`Analysis: ${job.message}`} />
    </div>
  );
}
