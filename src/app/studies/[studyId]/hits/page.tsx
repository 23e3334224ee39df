import { hitsModel } from "@/models/hits";
import { requestedStudy } from "@/server/pages";
import { HitsView } from "@/views/hits/HitsView";
import { readAddress, type ViewPage } from "../../address";

export default async function Page({ params, searchParams }: ViewPage) {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version } = await readAddress(searchParams);
  return <HitsView model={hitsModel(found.value, version)} />;
}
