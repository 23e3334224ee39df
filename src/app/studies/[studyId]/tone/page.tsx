import { success } from "@/core/outcome";
import { toneModel } from "@/models/tone";
import { fromDatabase, requestedStudy } from "@/server/pages";
import { compareInStudy } from "@/server/study/compare";
import { ToneView } from "@/views/tone/ToneView";
import { readAddress, type ViewPage } from "../../address";

export default async function Page({ params, searchParams }: ViewPage) {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version, selection } = await readAddress(searchParams);
  const results = found.value;
  const compared = await fromDatabase(async (db) =>
    success(await compareInStudy(db, results, version, selection)),
  );
  const comparison = compared.ok ? compared.value : null;
  return <ToneView model={comparison && toneModel(results, comparison)} />;
}
