import { lowEndModel } from "@/models/lowEnd";
import { requestedStudy } from "@/server/pages";
import { LowEndView } from "@/views/lowEnd/LowEndView";
import { readAddress, type ViewPage } from "../../address";

export default async function Page({ params, searchParams }: ViewPage) {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version } = await readAddress(searchParams);
  return <LowEndView model={lowEndModel(found.value, version)} />;
}
