/** A study on paper: the same numbers as on the screen, in every format, and no more than was asked for. */
import { madeUpLens } from "@/core/testing/lens";
import { madeUpStudy } from "@/core/testing/study";
import { compareAll, measuresOfWhole, type StudyResults } from "@/core/study";
import { trackFigures, yardstickOf } from "@/core/yardstick";
import { points } from "./format";
import { reportedIn, reportOf, reportParts, reportTitles, type Report, type ReportPart } from "./report";
import { reportCsv, reportJson, reportMarkdown } from "./reportFiles";

const results = madeUpStudy();
const { study } = results;

/** The newest version as a page would compare it. */
function reported(of: StudyResults = results) {
  const version = of.study.versions.at(-1)!;
  const { value } = of.alignments.get(version.id)!;
  const compared = compareAll(
    value.measures.reference,
    value.measures.version,
    of.study,
    value.alignment?.semitones ?? null,
    of.comparisons.get(version.id)?.value ?? null,
  );
  return reportedIn(of, {
    version,
    reference: value.measures.reference,
    measured: value.measures.version,
    compared,
    nothingRecreated: false,
    outdated: false,
  });
}
const report = reportOf(results, reported());
const chapter = (part: ReportPart, of: Report = report) => of.chapters.find((own) => own.part === part)!;
const column = (part: ReportPart, name: string) => {
  const { head, rows } = chapter(part).table!;
  return rows.map((row) => row[head.indexOf(name)]!);
};

describe("a report", () => {
  it("has all parts in their order, or those that are asked for", () => {
    expect(report.chapters.map(({ part }) => part)).toEqual([...reportParts]);
    const some = reportOf(results, reported(), ["drums", "aspects"]);
    expect(some.chapters.map(({ part }) => part)).toEqual(["aspects", "drums"]);
    expect(some.chapters.map(({ title }) => title)).toEqual([reportTitles.aspects, reportTitles.drums]);
    expect(reportOf(results, reported(), []).chapters).toEqual([]);
  });

  it("matches as the study does, and says what that means", () => {
    const { overview, compared } = reported();
    expect(report.match!.value).toBeCloseTo(compared.match!, 9);
    expect(report.match!.text).toBe(points(compared.match));
    expect(column("aspects", "Score").filter((score) => score !== "")).toEqual(
      overview.aspects.map(({ score }) => points(score)),
    );
    expect(chapter("next").table!.rows).toHaveLength(overview.findings.length);
    expect(column("elements", "Element")).toEqual(study.elements.map(({ name }) => name));
    expect(column("versions", "Match")).toEqual(results.scores.map(({ match }) => points(match)));
  });

  it("says what is held against the yardstick, and nothing of it where nothing is", () => {
    expect(chapter("method").lines.join(" ")).not.toContain("yardstick");
    const aspects = ["loudness", "tone"] as const;
    const yardstick = yardstickOf([...results.analyses.values()].map((analysis) => trackFigures(analysis)));
    const styled = {
      ...results,
      study: { ...study, styleAspects: [...aspects] },
      style: { aspects, yardstick },
    };
    expect(chapter("method", reportOf(styled, reported())).lines.join(" ")).toContain(
      `Held against the yardstick of ${results.analyses.size} tracks in place of the reference: loudness, tone.`,
    );
  });

  it("has charts of the numbers that the views show, in JSON and CSV as well", () => {
    const { curve } = reported();
    const { figure } = chapter("tone");
    if (figure?.kind !== "spectra") throw new Error("no spectra");
    const heard = curve.filter(({ weight }) => weight > 0);
    expect(figure.bands).toHaveLength(heard.length);
    figure.bands.forEach((band, i) => {
      expect(band.gap).toBeCloseTo(heard[i]!.version - heard[i]!.reference, 0);
      expect(band.hertz).toBe(Math.round(heard[i]!.centre));
    });
    expect(chapter("tone").lines[0]).toMatch(/ dB apart on average; within 1 dB nobody hears a band\.$/);
    const lines = reportCsv(report).split("\r\n");
    const head = lines.indexOf('"Hz","Reference, dB","Version, dB","Gap, dB"');
    // As numbers: nothing is taken for a formula.
    expect(lines.slice(head + 1, head + 1 + figure.bands.length)).toEqual(
      figure.bands.map(
        ({ hertz, reference, version, gap }) => `"${hertz}","${reference}","${version}","${gap}"`,
      ),
    );
    expect(
      (JSON.parse(reportJson(report)) as Report).chapters.find(({ part }) => part === "tone")!.figure,
    ).toEqual(figure);
  });

  it("draws where elements play, of those that the lens has lifted out and that are not left out", () => {
    const lifted = madeUpStudy({
      lens: madeUpLens(24, { kick: { plays: (bar) => bar !== 3 }, hats: {} }),
      change: (now) => ({
        ...now,
        elements: now.elements.map((own) => ({
          ...own,
          lens: own.id === "kick" ? ("kick" as const) : own.id === "hats" ? ("hats" as const) : null,
          state: own.id === "hats" ? ("left out" as const) : own.state,
        })),
      }),
    });
    const own = reportOf(lifted, reported(lifted), ["elements"]);
    const { figure } = own.chapters[0]!;
    if (figure?.kind !== "lanes") throw new Error("no lanes");
    expect(figure.lanes.map(({ name }) => name)).toEqual(["Kick"]);
    expect(figure.sections.map(({ name }) => name)).toEqual(["intro", "verse", "chorus"]);
    const rows = reportCsv(own).split("\r\n");
    const head = rows.indexOf('"Bar","Kick, reference","Kick, version"');
    expect(rows.slice(head + 2, head + 4)).toEqual(['"2","1","1"', '"3","1","0"']);
    expect(chapter("elements").figure).toBeNull();
  });

  it("says what was held against what, and when the two have nothing to do with each other", () => {
    expect(report.subject).toMatch(/ against .*\. All 24 bars of the reference against version 2\.$/);
    const strangers = {
      ...results,
      alignments: new Map(
        [...results.alignments].map(([id, { value, current }]) => [
          id,
          { current, value: { ...value, alignment: { ...value.alignment!, spans: [], related: 0.05 } } },
        ]),
      ),
    };
    expect(reportOf(strangers, reported(strangers)).subject).toMatch(/Version 2 doesn’t seem to recreate/);
  });

  it("says beside what is recreated that it is under other chords", () => {
    const others = {
      ...results,
      alignments: new Map(
        [...results.alignments].map(([id, { value, current }]) => [
          id,
          { current, value: { ...value, alignment: { ...value.alignment!, harmony: 0.3 } } },
        ]),
      ),
    };
    const { subject } = reportOf(others, reported(others));
    expect(subject).toMatch(
      /All 24 bars of the reference against version 2\. Version 2 goes through other chords/,
    );
  });

  it("says which bars alone were compared, and has no gaps where none of them is recreated", () => {
    const bars = { first: 5, last: 8 };
    expect(reportOf(results, { ...reported(), bars }).subject).toMatch(/Only bars 5–8 of the reference\.$/);
    const { overview, ...rest } = reported();
    const none = reportOf(results, {
      ...rest,
      bars,
      overview: { ...overview, nothingRecreated: true, findings: [] },
    });
    expect(none.subject).toMatch(/which version 2 does not recreate\.$/);
    expect(none.match).toBeNull();
    expect(chapter("next", none).lines).toEqual(["Nothing of this is recreated yet."]);
    expect(none.chapters.some(({ part }) => part === "aspects" || part === "elements")).toBe(false);
  });

  it("describes the reference as it was made", () => {
    const facts = new Map(chapter("reference").table!.rows.map(([name, value]) => [name, value]));
    expect(facts.get("Tempo")).toBe("120.00 BPM");
    expect(facts.get("Metre")).toBe("4/4, 24 bars");
    expect(facts.get("Integrated loudness")).toMatch(/^−14\.0 LUFS$/);
    expect(column("sections", "Section")).toEqual(["intro", "verse", "chorus"]);
    expect(column("sections", "Bars")).toEqual(["1–8", "9–16", "17–24"]);
    expect(column("sections", "Chords")[0]).toBe("Am – F – C – G");
    // Four on the floor, the back-beat on two and four.
    const { head, rows } = chapter("drums").table!;
    const of = (voice: string) =>
      rows.find((row) => row[head.indexOf("Voice")] === voice)![head.indexOf("Typical pattern")]!;
    expect(of("Kick")).toBe("X...X...X...X...");
    expect(of("Snare")).toBe("....X.......X...");
  });

  it("is the sheet to start from where there is no version", () => {
    const alone = reportOf(madeUpStudy({ versions: 0 }), null);
    expect(alone.match).toBeNull();
    expect(alone.subject).toMatch(/^The reference alone: /);
    expect(alone.chapters.map(({ part }) => part)).toEqual(["reference", "sections", "drums", "method"]);
    const empty = reportOf(madeUpStudy({ empty: true }), null);
    expect(empty.subject).toBe("No reference yet.");
    expect(empty.chapters).toEqual([]);
  });

  it("lists as still to do what the page lists, and names what was set aside", () => {
    const own = reported()!;
    const [first] = own.overview.findings;
    const mark = { ...first!, mark: "not now" as const, version: own.version.number };
    const marked = { ...results, study: { ...study, marks: { [first!.key]: mark } } };
    const next = chapter("next", reportOf(marked, own));
    expect(column("next", "What")).toContain(first!.title);
    expect(next.table!.rows.map(([what]) => what)).toEqual(column("next", "What").slice(1));
    expect(next.lines).toEqual([`Set aside: ${first!.title} (not now).`]);
  });

  it("finds nothing to do where a version is its reference", () => {
    const analysis = results.analyses.get(study.reference!.file.hash)!;
    const own = measuresOfWhole(analysis);
    const same = reportedIn(results, {
      version: study.versions[0]!,
      reference: own,
      measured: own,
      compared: compareAll(own, own, study),
      nothingRecreated: false,
      outdated: false,
    });
    expect(chapter("next", reportOf(results, same)).lines).toEqual([
      "No audible differences left in what is measured so far.",
    ]);
  });
});

describe("files of a report", () => {
  /** Tables of a Markdown page, as a reader would take them. */
  const tablesOf = (page: string) =>
    page
      .trim()
      .split(/\n\n/)
      .filter((block) => block.startsWith("|"))
      .map((block) =>
        block.split("\n").map((line) =>
          line
            .slice(2, -2)
            .split(/(?<!\\) \| /)
            .map((text) => text.replace(/\\\|/g, "|").trim()),
        ),
      );
  /** A small reader of RFC 4180. */
  function csvRows(text: string): string[][] {
    const rows: string[][] = [[]];
    for (const [, quoted, end] of text.matchAll(/(?:"((?:[^"]|"")*)")?(,|\r\n)/g)) {
      if (quoted !== undefined) rows.at(-1)!.push(quoted.replace(/""/g, '"'));
      if (end === "\r\n") rows.push([]);
    }
    return rows;
  }

  it("in Markdown have every table whole, and columns of numbers to the right", () => {
    const page = reportMarkdown(report);
    const withTables = report.chapters.filter(({ table }) => table);
    const tables = tablesOf(page);
    expect(tables).toHaveLength(withTables.length);
    tables.forEach(([head, rule, ...rows], i) => {
      const own = withTables[i]!.table!;
      expect(head).toEqual(own.head);
      expect(rule!.map((mark) => mark.endsWith(":"))).toEqual(
        own.head.map((_, k) => own.numbers.includes(k)),
      );
      expect(rows).toEqual(own.rows.map((row) => row.map((text) => text.trim())));
    });
    expect(page).toMatch(/^# /);
    expect(page.match(/^## .*$/gm)).toEqual(report.chapters.map(({ title }) => `## ${title}`));
    expect(page).toContain(`**Match ${report.match!.text} of 100**`);
  });

  it("in CSV have every row", () => {
    const rows = csvRows(reportCsv(report));
    for (const { table, title } of report.chapters) {
      if (!table) continue;
      const at = rows.findIndex((row) => row.length === 1 && row[0] === title);
      expect(rows[at + 1]).toEqual(table.head);
      table.rows.forEach((row, i) =>
        expect(rows[at + 2 + i]!.map((text) => text.replace(/^'/, ""))).toEqual(row),
      );
    }
  });

  it("in CSV hold nothing that a spreadsheet would take for a formula", () => {
    const risky = { ...report, title: '=HYPERLINK("x")', match: null, chapters: [] };
    expect(csvRows(reportCsv(risky))[0]).toEqual(["Study", '\'=HYPERLINK("x")']);
  });

  it("keep a table whole where a note has bars and lines in it", () => {
    const noted = {
      ...results,
      study: { ...study, elements: study.elements.map((own) => ({ ...own, note: "a | b\nc" })) },
    };
    const own = reportOf(noted, reported(noted), ["elements"]);
    const [[, , ...rows]] = tablesOf(reportMarkdown(own)) as [string[][]];
    for (const row of rows) expect([row.length, row[6]]).toEqual([7, "a | b c"]);
  });

  it("in JSON are the report", () => {
    expect(JSON.parse(reportJson(report))).toEqual(report);
  });
});
