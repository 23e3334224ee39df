import { success } from "@/core/outcome";
import { yardstickModel } from "@/models/yardstick";
import { fromDatabase, requestedStudy } from "@/server/pages";
import { yardstickFigures } from "@/server/study/figures";
import { yardstickSources } from "@/server/study/yardstick";
import { YardstickView } from "@/views/yardstick/YardstickView";
import { readAddress, type ViewPage } from "../../address";

export default async function Page({ params, searchParams }: ViewPage) {
  const found = await requestedStudy((await params).studyId);
  if (!found.ok) return null;
  const { version } = await readAddress(searchParams);
  const known = await fromDatabase(async (db) =>
    success({
      figures: await yardstickFigures(db, found.value.study),
      sources: await yardstickSources(db, found.value.study.id),
    }),
  );
  if (!known.ok) return null;
  return (
    <YardstickView
      model={yardstickModel(found.value, known.value.figures, version)}
      sources={known.value.sources}
    />
  );
}
