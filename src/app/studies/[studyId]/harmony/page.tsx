import { HarmonyView } from "@/views/harmony/HarmonyView";
import { readAddress, type ViewPage } from "../../address";
import { cachedStudy } from "../cachedStudy";
import { planModel } from "../planModel";

export default async function HarmonyPage({ params, searchParams }: ViewPage) {
  const read = await cachedStudy((await params).studyId);
  if (!read) return null;
  const { version } = await readAddress(searchParams);
  return <HarmonyView model={planModel(read, version)} />;
}
