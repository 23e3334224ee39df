"use client";

import { useRouter } from "next/navigation";
import { useState } from "react";
import { AskFirst } from "@/components/AskFirst";
import { useNotices } from "@/components/Notices";
import { send, sentenceOf } from "@/components/requests";
import type { Outcome } from "@/core/outcome";
import type { RemovedStudy } from "@/core/study";
import { day } from "@/models/format";

/** Studies that were deleted and can still be brought back. */
export function RemovedStudies({ studies }: { studies: readonly RemovedStudy[] }) {
  const router = useRouter();
  const { say } = useNotices();
  const [leaving, setLeaving] = useState<RemovedStudy | null>(null);
  const done = (text: string) => (outcome: Outcome<unknown>) => {
    say(outcome.ok ? text : sentenceOf(outcome.refusal));
    router.refresh();
  };
  const restore = ({ id, title }: RemovedStudy) => {
    const patch = [{ path: ["study", "removed"], from: true, to: false }];
    void send("POST", `/api/studies/${id}/edits`, { edits: [{ label: "Study restored", patch }] }).then(
      done(`“${title}” restored`),
    );
  };
  return (
    <details className="removed-studies small-text">
      <summary className="soft">Recently deleted ({studies.length}), kept for seven days</summary>
      <ul className="change-list mt-2">
        {studies.map((study) => (
          <li key={study.id}>
            <span className="tiny-text soft">{day(study.removedAt)}</span>
            <span>{study.title}</span>
            <span className="d-inline-flex gap-3">
              <button
                type="button"
                className="plain-button underlined"
                aria-label={`Restore ${study.title}`}
                onClick={() => restore(study)}
              >
                Restore
              </button>
              <button
                type="button"
                className="plain-button underlined soft"
                aria-label={`Delete ${study.title} permanently`}
                onClick={() => setLeaving(study)}
              >
                Delete permanently
              </button>
            </span>
          </li>
        ))}
      </ul>
      {leaving && (
        <AskFirst
          title={`Delete “${leaving.title}” permanently?`}
          action="Delete permanently"
          onCancel={() => setLeaving(null)}
          onConfirm={() => {
            setLeaving(null);
            void send("DELETE", `/api/studies/${leaving.id}`).then(
              done(`“${leaving.title}” deleted permanently`),
            );
          }}
        >
          <p className="m-0">
            Its files, notes and edits are removed from Plain Mirror. Your own copies of the files are not
            touched. This can’t be undone.
          </p>
        </AskFirst>
      )}
    </details>
  );
}
