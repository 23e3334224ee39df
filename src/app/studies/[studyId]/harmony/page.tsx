import { planModel } from "@/models/plan";
import { requestedStudy } from "@/server/pages";
import { HarmonyView } from "@/views/harmony/HarmonyView";
import { readAddress, type ViewPage } from "../../address";

export default async function Page({ params, searchParams }: ViewPage) {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version } = await readAddress(searchParams);
  return <HarmonyView model={planModel(found.value, version)} />;
}
