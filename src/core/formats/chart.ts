/** The plan of a track as text: a chord chart by section, and a table of sections. */
import { chordName } from "../harmony/chords";
import { keyName, romanNumeral, spellingOf } from "../harmony/keys";
import type { Grid } from "../grid/grid";
import { metreName } from "../grid/grid";
import type { CountedPlan } from "../plan/trackPlan";
import type { PlanTimes } from "./planTimes";

/** Bars on one line of a chart. */
const barsALine = 4;

/** What begins in a bar, with a dot for each beat on which nothing new does. */
function barText(plan: CountedPlan, bar: number, beatsPerBar: number, degrees: boolean): string {
  const { key } = plan;
  const spelling = key ? spellingOf(key) : "sharps";
  const first = (bar - 1) * beatsPerBar;
  const cells: string[] = [];
  for (let beat = first; beat < first + beatsPerBar; beat++) {
    const own = plan.chords.find(
      ({ startBeat, endBeat }) => beat >= startBeat - 1e-6 && beat < endBeat - 1e-6,
    );
    const begins = own && (beat === first || Math.abs(own.startBeat - beat) < 0.5);
    const chord = own?.chord ?? null;
    cells.push(begins ? (degrees && key ? romanNumeral(chord, key) : chordName(chord, spelling)) : ".");
  }
  while (cells.length > 1 && cells.at(-1) === ".") cells.pop();
  return cells.join(" ");
}

/** A chart in plain text, four bars a line, section by section. */
export function chordChart(
  plan: CountedPlan,
  grid: Grid,
  about: { title: string },
  { degrees = false } = {},
): string {
  const lines = [
    about.title,
    [plan.key && keyName(plan.key), `${grid.bpm.toFixed(2)} BPM`, metreName(grid.beatsPerBar)]
      .filter(Boolean)
      .join(", "),
  ];
  const last = plan.chords.at(-1);
  const sections =
    plan.sections.length > 0
      ? plan.sections
      : [
          {
            name: "whole",
            letter: "A",
            firstBar: 1,
            lastBar: last ? Math.ceil(last.endBeat / grid.beatsPerBar) : 0,
          },
        ];
  for (const { name, letter, firstBar, lastBar } of sections) {
    const bars = lastBar - firstBar + 1;
    lines.push(
      "",
      `${name} (${letter}), bars ${firstBar} to ${lastBar}, ${bars} bar${bars === 1 ? "" : "s"}`,
    );
    const texts = Array.from({ length: bars }, (_, i) =>
      barText(plan, firstBar + i, grid.beatsPerBar, degrees),
    );
    const width = Math.max(...texts.map((text) => text.length));
    for (let i = 0; i < texts.length; i += barsALine) {
      lines.push(
        `| ${texts
          .slice(i, i + barsALine)
          .map((text) => text.padEnd(width))
          .join(" | ")} |`,
      );
    }
  }
  return lines.join("\n") + "\n";
}

/** A cell of text: quoted where it must be, and never read as a formula by a spreadsheet. */
function quoted(text: string): string {
  const plain = /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
  return /[",\r\n]/.test(plain) ? `"${plain.replaceAll('"', '""')}"` : plain;
}

/** Sections as comma-separated values (RFC 4180), with times in seconds and places in bars. */
export function sectionsCsv(plan: CountedPlan, times: PlanTimes): string {
  const rows = plan.sections.map(({ name, letter, firstBar, lastBar }, i) => {
    const { start, end } = times.sections[i]!;
    return [
      quoted(name),
      quoted(letter),
      firstBar,
      lastBar,
      lastBar - firstBar + 1,
      start.toFixed(3),
      end.toFixed(3),
    ];
  });
  return [["name", "letter", "first bar", "last bar", "bars", "start s", "end s"], ...rows]
    .map((row) => row.join(","))
    .join("\r\n")
    .concat("\r\n");
}
