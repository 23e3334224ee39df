import { notFound } from "next/navigation";
import type { ReactNode } from "react";
import { PageTitle } from "@/components/PageTitle";
import { Problem } from "@/components/Problem";
import { success } from "@/core/outcome";
import { parseStudyAddress } from "@/core/study";
import { frameModel } from "@/models/frame";
import { revisionOf } from "@/server/jobs/progress";
import { fromDatabase, requestedStudy } from "@/server/pages";
import { undoState } from "@/server/study/edit";
import { folderState } from "@/server/watching/watcher";
import { StudyShell } from "@/views/study/StudyShell";

export const dynamic = "force-dynamic";

interface Props {
  params: Promise<{ studyId: string }>;
  children: ReactNode;
}

export default async function StudyLayout({ params, children }: Props) {
  const { studyId: address } = await params;
  const studyId = parseStudyAddress(address)?.id ?? address;
  // Read before anything else, so that whatever changes meanwhile makes the page out of date.
  const revision = revisionOf(studyId);
  const undo = await fromDatabase(async (db) => success(await undoState(db, studyId)));
  const found = await requestedStudy(address);
  if (!found.ok || !undo.ok) {
    const { refusal } = !found.ok ? found : (undo as { ok: false; refusal: never });
    if (refusal.code === "not-found") notFound();
    return (
      <>
        <PageTitle />
        <Problem refusal={refusal} />
      </>
    );
  }
  const model = frameModel(found.value, undo.value, revision, folderState(studyId));
  return <StudyShell model={model}>{children}</StudyShell>;
}
