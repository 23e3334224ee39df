import { redirect } from "next/navigation";

export default async function StudyPage({ params }: { params: Promise<{ studyId: string }> }) {
  redirect(`/studies/${(await params).studyId}/overview`);
}
