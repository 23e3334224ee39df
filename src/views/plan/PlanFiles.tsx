"use client";

import { z } from "zod";
import { useRouter } from "next/navigation";
import { FileLinks } from "@/components/FileLinks";
import { FilePick } from "@/components/FilePick";
import { useNotices } from "@/components/Notices";
import { sentenceOf } from "@/components/requests";
import type { Refusal } from "@/core/outcome";
import { useStudy } from "../study/StudyContext";
import type { PlanTrack } from "./model";

const answerSchema = z.union([
  z.object({ taken: z.string(), warnings: z.array(z.string()) }),
  z.object({ refusal: z.object({ sentence: z.string(), remedy: z.string().optional() }) }),
]);

/** A plan out as files, and annotations in. */
export function PlanFiles({
  track,
  formats,
}: {
  track: PlanTrack;
  formats: readonly { format: string; says: string }[];
}) {
  const { change } = useStudy();
  const { say } = useNotices();
  const router = useRouter();
  const address = `/api/plans/${track.placeId}`;
  const bring = async (file: File) => {
    const response = await fetch(`${address}/annotations`, { method: "PUT", body: await file.text() }).catch(
      () => null,
    );
    const answer = answerSchema.safeParse(await response?.json().catch(() => null));
    if (!answer.success) return say("Plain Mirror does not answer. See whether it is still running.");
    if ("refusal" in answer.data) return say(sentenceOf(answer.data.refusal as Refusal));
    const { taken, warnings } = answer.data;
    say([`Taken from ${file.name}: ${taken}.`, ...warnings.slice(0, 2)].join(" "), () => {
      if (/chord|key/.test(taken)) void change("DELETE", `${address}?subject=harmony`);
      if (/section/.test(taken)) void change("DELETE", `${address}?subject=form`);
    });
    router.refresh();
  };
  return (
    <section aria-label="Files">
      <h2>Out and in</h2>
      <FileLinks formats={formats} addressOf={(format) => `${address}/export?format=${format}`} />
      <p className="small-text soft m-0">
        Of {track.name.toLowerCase()}, on its grid as it counts.{" "}
        <FilePick
          says="Bring in annotations (JAMS)"
          label="Annotation file"
          accept=".jams,.json,application/json"
          onFile={(file) => void bring(file)}
        />
      </p>
    </section>
  );
}
