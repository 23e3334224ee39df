import { planModel } from "@/models/plan";
import { requestedStudy } from "@/server/pages";
import { SectionsView } from "@/views/sections/SectionsView";
import { readAddress, type ViewPage } from "../../address";

export default async function Page({ params, searchParams }: ViewPage) {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version } = await readAddress(searchParams);
  return <SectionsView model={planModel(found.value, version)} />;
}
