import { PageTitle } from "@/components/PageTitle";
import { Problem } from "@/components/Problem";
import { ThemeSwitch } from "@/components/ThemeSwitch";
import { success } from "@/core/outcome";
import { newestRevision } from "@/server/jobs/progress";
import { fromDatabase } from "@/server/pages";
import { listRemovedStudies, listStudies } from "@/server/study/summary";
import { StudyList } from "@/views/home/StudyList";

export const dynamic = "force-dynamic";

export default async function HomePage() {
  const lists = await fromDatabase(async (db) =>
    success({
      // Taken first, so that whatever changes while the lists are read makes them out of date.
      revision: newestRevision(),
      rows: await listStudies(db),
      removed: await listRemovedStudies(db),
    }),
  );
  return (
    <div className="frame">
      <PageTitle />
      <header className="top-bar">
        <span className="product">Plain Mirror</span>
        <span className="end">
          <ThemeSwitch />
        </span>
      </header>
      {lists.ok ? (
        <main className="home">
          <StudyList {...lists.value} />
        </main>
      ) : (
        <Problem refusal={lists.refusal} />
      )}
    </div>
  );
}
