import { ThemeSwitch } from "@/components/ThemeSwitch";
import { database } from "@/server/database";
import { readAllStudies } from "@/server/reading";
import { StudyList, type StudyRow } from "@/views/home/StudyList";

export const dynamic = "force-dynamic";

export default async function HomePage() {
  const rows = (await readAllStudies(await database())).map(
    ({ study, analyses, grids, plans, standings }): StudyRow => {
      const { reference } = study;
      const tracks = [...(reference ? [reference] : []), ...study.versions];
      const analysis = reference && analyses.get(reference.file.hash);
      return {
        id: study.id,
        title: study.title,
        addedAt: study.addedAt,
        artist: reference?.file.claims.artist ?? null,
        referenceFile: reference?.fileName ?? null,
        pending: tracks.some(({ job }) => job.state === "queued" || job.state === "running"),
        bpm: (reference && grids.get(reference.id)?.bpm) ?? analysis?.tempo?.bpm ?? null,
        key: (reference && plans.get(reference.id)?.counted.key) ?? null,
        referenceState: reference && reference.job.state !== "done" ? reference.job.says : null,
        versions: study.versions.length,
        match: standings.findLast((standing) => standing.match !== null)?.match ?? null,
        history: standings.map((standing) => standing.match),
      };
    },
  );
  return (
    <div className="frame">
      <header className="top-bar">
        <span className="product">Plain Mirror</span>
        <span className="end">
          <ThemeSwitch />
        </span>
      </header>
      <main className="home">
        <StudyList rows={rows} />
      </main>
    </div>
  );
}
