import { DrumsView } from "@/views/drums/DrumsView";
import { readAddress, type SearchParams } from "../../address";
import { cachedStudy } from "../cachedStudy";
import { drumModel } from "../drumModel";

export default async function DrumsPage({
  params,
  searchParams,
}: {
  params: Promise<{ studyId: string }>;
  searchParams: SearchParams;
}) {
  const read = await cachedStudy((await params).studyId);
  if (!read) return null;
  const { version } = await readAddress(searchParams);
  return <DrumsView model={drumModel(read, version)} />;
}
