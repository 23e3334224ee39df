import { DrumsView } from "@/views/drums/DrumsView";
import { readAddress, type ViewPage } from "../../address";
import { cachedStudy } from "../cachedStudy";
import { drumModel } from "../drumModel";

export default async function DrumsPage({ params, searchParams }: ViewPage) {
  const read = await cachedStudy((await params).studyId);
  if (!read) return null;
  const { version } = await readAddress(searchParams);
  return <DrumsView model={drumModel(read, version)} />;
}
