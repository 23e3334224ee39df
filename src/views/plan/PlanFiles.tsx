"use client";

import { z } from "zod";
import { FileLinks } from "@/components/FileLinks";
import { FilePick } from "@/components/FilePick";
import { useNotices } from "@/components/Notices";
import { sentenceOf } from "@/components/requests";
import type { Refusal } from "@/core/outcome";
import { useEdits } from "../study/StudyContext";
import { appliedSchema } from "../study/state/useEditing";
import type { PlanTrack } from "@/models/plan";

const answerSchema = z.union([
  z.object({ taken: z.string(), warnings: z.array(z.string()), edit: appliedSchema.nullable() }),
  z.object({ refusal: z.object({ sentence: z.string(), remedy: z.string().optional() }) }),
]);

/** A plan out as files, and annotations in. */
export function PlanFiles({
  track,
  formats,
}: {
  track: PlanTrack;
  formats: readonly { format: string; label: string }[];
}) {
  const { add, undo } = useEdits();
  const { say } = useNotices();
  const address = `/api/items/${track.itemId}`;
  const bring = async (file: File) => {
    const response = await fetch(`${address}/annotations`, { method: "PUT", body: await file.text() }).catch(
      () => null,
    );
    const answer = answerSchema.safeParse(await response?.json().catch(() => null));
    if (!answer.success) return say("Can't reach the server. Check that Plain Mirror is still running.");
    if ("refusal" in answer.data) return say(sentenceOf(answer.data.refusal as Refusal));
    const { taken, warnings, edit } = answer.data;
    if (edit) add(edit);
    say(
      [`Imported from ${file.name}: ${taken}.`, ...warnings.slice(0, 2)].join(" "),
      edit ? { name: "Undo", act: () => undo(edit.id) } : undefined,
    );
  };
  return (
    <section aria-label="Files">
      <h2>Export and import</h2>
      <FileLinks formats={formats} addressOf={(format) => `${address}/plan?format=${format}`} />
      <p className="small-text soft m-0">
        {track.name}, on its current grid.{" "}
        <FilePick
          text="Import annotations (JAMS)"
          label="Annotation file"
          accept=".jams,.json,application/json"
          onFile={(file) => void bring(file)}
        />
      </p>
    </section>
  );
}
