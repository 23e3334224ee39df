import type { Metadata } from "next";
import { notFound } from "next/navigation";
import type { ReactNode } from "react";
import { StudyShell } from "@/views/study/StudyShell";
import type { StudyModel } from "@/views/study/StudyContext";
import { cachedStudy } from "./cachedStudy";

export const dynamic = "force-dynamic";

interface Props {
  params: Promise<{ studyId: string }>;
  children: ReactNode;
}

export async function generateMetadata({ params }: Pick<Props, "params">): Promise<Metadata> {
  const read = await cachedStudy((await params).studyId);
  return { title: read?.study.title ?? "No such study" };
}

export default async function StudyLayout({ params, children }: Props) {
  const read = await cachedStudy((await params).studyId);
  if (!read) notFound();
  const { study, analyses, linedUp, grids, plans, standings } = read;
  const facts: StudyModel["facts"] = {};
  for (const track of [...(study.reference ? [study.reference] : []), ...study.versions]) {
    const analysis = analyses.get(track.file.hash);
    if (analysis) {
      facts[track.id] = {
        bpm: grids.get(track.id)?.bpm ?? analysis.tempo?.bpm ?? null,
        integratedLufs: analysis.loudness.integratedLufs,
        grid: grids.get(track.id) ?? null,
        key: plans.get(track.id)?.counted.key ?? null,
        planCurrent: plans.get(track.id)?.current ?? true,
        sections: plans.get(track.id)?.counted.sections ?? [],
      };
    }
  }
  const lineUps: StudyModel["lineUps"] = Object.fromEntries(
    [...linedUp].map(([id, { alignment, current }]) => [id, { alignment, current }]),
  );
  return <StudyShell model={{ study, standings, facts, lineUps }}>{children}</StudyShell>;
}
