import { gridModel } from "@/models/grid";
import { requestedStudy } from "@/server/pages";
import { GridView } from "@/views/grid/GridView";
import { readAddress, type ViewPage } from "../../address";

export default async function Page({ params, searchParams }: ViewPage) {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version } = await readAddress(searchParams);
  return <GridView model={gridModel(found.value, version)} />;
}
