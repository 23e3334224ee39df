"use client";

import { useSearchParams } from "next/navigation";
import { startTransition, useOptimistic } from "react";
import { Button } from "react-bootstrap";
import { FileLinks } from "@/components/FileLinks";
import { HistoryLine } from "@/components/HistoryLine";
import { lensParts } from "@/core/lens/parts";
import { lensNames } from "@/models/elements";
import { reportParts, reportTitles, type Report, type ReportChapter, type ReportPart } from "@/models/report";
import { reportFormats } from "@/models/reportFiles";
import { referenceName, studyAddress } from "@/core/study";
import { useStudy } from "../study/StudyContext";
import { ReportChart } from "./ReportCharts";

/** Files of a track for other programs, by where they are asked for. */
const handOvers = [
  { format: "plan?format=track", label: "MIDI of all parts" },
  { format: "plan?format=midi", label: "chords and sections" },
  { format: "drums?format=midi", label: "drums" },
  { format: "drums?format=groove", label: "groove (CSV)" },
  { format: "plan?format=chart", label: "chord chart" },
  { format: "plan?format=csv", label: "sections (CSV)" },
  { format: "plan?format=jams", label: "JAMS" },
];

/** What the lens lifts out of a track. */
const liftedParts = lensParts.map((part) => ({ format: part, label: lensNames[part].toLowerCase() }));

const capital = (words: string) => words[0]!.toUpperCase() + words.slice(1);

const formatNames = { markdown: "Markdown", csv: "CSV", json: "JSON" } as const;

/** The report of a study: chosen parts on one page, for screen and paper, and as files. */
export function ReportView({
  report,
  lifted,
}: {
  report: Report;
  /** Hashes of the files that the lens has taken apart. */
  lifted: readonly string[];
}) {
  const { study, scores, version, go, bars } = useStudy();
  const asked = useSearchParams().get("parts");
  const inAddress: readonly ReportPart[] =
    asked === null ? reportParts : reportParts.filter((part) => asked.split(",").includes(part));
  // Shown as it is pressed; the address follows.
  const [chosen, setChosen] = useOptimistic(inAddress);
  const choose = (part: ReportPart, isWanted: boolean) =>
    startTransition(() => {
      const now = reportParts.filter((own) => (own === part ? isWanted : chosen.includes(own)));
      setChosen(now);
      go({ parts: now.length === reportParts.length ? null : now.join(",") });
    });
  const fileAddress = (format: (typeof reportFormats)[number]) => {
    const query = new URLSearchParams({ format });
    if (version) query.set("version", String(version.number));
    if (bars) query.set("bars", `${bars.first}-${bars.last}`);
    if (chosen.length < reportParts.length) query.set("parts", chosen.join(","));
    return `/api/studies/${studyAddress(study)}/report?${query}`;
  };
  const there = report.chapters.map(({ part }) => part);
  return (
    <div className="report-view">
      <article className="report" aria-label="Report">
        <header>
          <h1>{report.title}</h1>
          <p>{report.subject}</p>
          {report.match && (
            <p className="report-match">
              <span className="value" data-testid="report-match">
                {report.match.text}
              </span>{" "}
              of 100: {report.match.meaning}.
            </p>
          )}
          {scores.filter(({ match }) => match !== null).length > 1 && chosen.includes("versions") && (
            <figure className="m-0">
              <HistoryLine
                scores={scores.map(({ match }) => match)}
                width={420}
                height={64}
                label="Match over versions"
              />
              <figcaption className="tiny-text soft">
                Match over versions {scores[0]!.number} to {scores.at(-1)!.number}
              </figcaption>
            </figure>
          )}
        </header>
        {report.chapters
          .filter(({ part }) => chosen.includes(part))
          .map((chapter) => (
            <Chapter key={chapter.part} chapter={chapter} />
          ))}
      </article>
      <aside aria-label="Report options" className="report-options">
        <Button onClick={() => window.print()}>Print or save as PDF</Button>
        <div className="mt-3">
          <div className="strong">Save as</div>
          {reportFormats.map((format) => (
            <a key={format} className="plain-button underlined me-3" href={fileAddress(format)} download>
              {formatNames[format]}
            </a>
          ))}
        </div>
        <div className="mt-3">
          <div className="strong">Take along</div>
          {study.standIn === null && (
            <a className="plain-button underlined" href={`/api/studies/${study.id}/archive`} download>
              The whole study (zip)
            </a>
          )}
          {[study.reference, version].map(
            (track) =>
              track && (
                <div key={track.id} className="small-text mt-1">
                  <span className="soft">
                    {track.id === study.reference?.id
                      ? capital(referenceName(study))
                      : `Version ${track.number}`}
                    :
                  </span>{" "}
                  <FileLinks formats={handOvers} addressOf={(format) => `/api/items/${track.id}/${format}`} />
                  {lifted.includes(track.file.hash) && (
                    <>
                      <span className="soft">As WAV from bar 1:</span>{" "}
                      <FileLinks
                        formats={liftedParts}
                        addressOf={(part) => `/api/items/${track.id}/lens?part=${part}&from=bar1`}
                      />
                    </>
                  )}
                </div>
              ),
          )}
        </div>
        <fieldset className="mt-3">
          <legend className="strong">Parts</legend>
          {reportParts.map((part) => (
            <label key={part} className={`d-flex gap-2${there.includes(part) ? "" : " soft"}`}>
              <input
                type="checkbox"
                checked={chosen.includes(part)}
                onChange={({ target }) => choose(part, target.checked)}
              />
              {reportTitles[part]}
            </label>
          ))}
        </fieldset>
        {!version && (
          <p className="small-text soft mt-3">
            Without a version this is the sheet to start from: how the reference is made.
          </p>
        )}
      </aside>
    </div>
  );
}

function Chapter({ chapter: { part, title, lines, table, figure } }: { chapter: ReportChapter }) {
  const hasHead = table?.head.some((name) => name !== "");
  return (
    <section className={`chapter ${part}`} aria-label={title}>
      <h2>{title}</h2>
      {lines.map((line) => (
        <p key={line}>{line}</p>
      ))}
      {figure && <ReportChart figure={figure} />}
      {table && (
        <table className="ruled">
          {hasHead && (
            <thead>
              <tr>
                {table.head.map((name, i) => (
                  <th key={name} scope="col" className={table.numbers.includes(i) ? "number" : undefined}>
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
          )}
          <tbody>
            {table.rows.map((row, i) => (
              // Rows have no name of their own and never move.
              <tr key={i} className={row[0] === "" ? "follows" : undefined}>
                {row.map((text, k) =>
                  !hasHead && k === 0 ? (
                    <th key={k} scope="row">
                      {text}
                    </th>
                  ) : (
                    <td key={k} className={table.numbers.includes(k) ? "number" : undefined}>
                      {text}
                    </td>
                  ),
                )}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
