"use client";

import { useState } from "react";
import { bestVersion, targetWords } from "@/models/progress";
import { useEdits, useStudy } from "../study/StudyContext";

const usualTarget = 90;

/** The match that is to be reached, and how far it is. */
export function Target() {
  const { study, scores, version } = useStudy();
  const { editStudy } = useEdits();
  const [draft, setDraft] = useState<string | null>(null);
  const save = (target: number | null) =>
    editStudy(target === null ? "Target removed" : `Target set to ${target}`, { target });
  if (study.target === null)
    return (
      <p className="small-text m-0">
        <button type="button" className="plain-button underlined soft" onClick={() => save(usualTarget)}>
          Set a target for the match
        </button>
      </p>
    );
  const finish = () => {
    const next = Math.round(Number(draft));
    if (draft !== null && next >= 1 && next <= 100 && next !== study.target) save(next);
    setDraft(null);
  };
  return (
    <p className="small-text m-0 d-flex gap-2 align-items-baseline flex-wrap">
      <label htmlFor="target">Target</label>
      <input
        id="target"
        type="number"
        className="form-control form-control-sm"
        style={{ width: 70 }}
        min={1}
        max={100}
        value={draft ?? study.target}
        onChange={({ target }) => setDraft(target.value)}
        onBlur={finish}
        onKeyDown={(event) => {
          if (event.key === "Enter") finish();
          if (event.key === "Escape") setDraft(null);
        }}
      />
      <span>
        {targetWords(
          study.target,
          scores,
          bestVersion(scores, ({ match }) => match),
          version?.id,
        )}
      </span>
      <button type="button" className="plain-button underlined soft" onClick={() => save(null)}>
        Remove
      </button>
    </p>
  );
}
