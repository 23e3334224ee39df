import { SectionsView } from "@/views/sections/SectionsView";
import { readAddress, type ViewPage } from "../../address";
import { cachedStudy } from "../cachedStudy";
import { planModel } from "../planModel";

export default async function SectionsPage({ params, searchParams }: ViewPage) {
  const read = await cachedStudy((await params).studyId);
  if (!read) return null;
  const { version } = await readAddress(searchParams);
  return <SectionsView model={planModel(read, version)} />;
}
