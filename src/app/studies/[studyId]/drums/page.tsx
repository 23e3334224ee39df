import { drumModel, sentDrums } from "@/models/drums";
import { requestedStudy } from "@/server/pages";
import { DrumsView } from "@/views/drums/DrumsView";
import { readAddress, type ViewPage } from "../../address";

export default async function Page({ params, searchParams }: ViewPage) {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version } = await readAddress(searchParams);
  return <DrumsView model={sentDrums(drumModel(found.value, version))} />;
}
