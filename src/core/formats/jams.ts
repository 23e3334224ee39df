/**
 * Annotations in JAMS (Humphrey, Salamon, Nieto, Forsyth, Bittner & Bello 2014, "JAMS: a JSON
 * annotated music specification for reproducible MIR research"), version 0.3: beats, chords, key
 * and segments, written and read.
 */
import { z } from "zod";
import { harteLabel, readChord, type Chord } from "../harmony/chords";
import { readKey, type Key } from "../harmony/keys";
import { plainName } from "../harmony/notes";
import { refuse, success, type Outcome } from "../outcome";
import type { Seconds } from "../units";
import type { PlanTimes } from "./planTimes";

const observationSchema = z.object({
  time: z.number(),
  duration: z.number(),
  value: z.unknown(),
  confidence: z.number().nullish(),
});
type Observation = z.infer<typeof observationSchema>;

/** Observations as a list, or column by column as some programs write them. */
const dataSchema = z.union([
  z.array(observationSchema),
  z
    .object({
      time: z.array(z.number()),
      duration: z.array(z.number()),
      value: z.array(z.unknown()),
      confidence: z.array(z.number().nullable()),
    })
    .transform(({ time, duration, value, confidence }) =>
      time.map((start, i): Observation => ({
        time: start,
        duration: duration[i] ?? 0,
        value: value[i],
        confidence: confidence[i] ?? null,
      })),
    ),
]);

const jamsSchema = z.object({
  annotations: z.array(z.object({ namespace: z.string(), data: dataSchema })),
});

const annotation = (namespace: string, duration: Seconds, tools: string, data: Observation[]) => ({
  annotation_metadata: {
    curator: { name: "", email: "" },
    annotator: {},
    version: "",
    corpus: "",
    annotation_tools: tools,
    annotation_rules: "",
    validation: "",
    data_source: "",
  },
  namespace,
  data,
  sandbox: {},
  time: 0,
  duration,
});

/** The key as the namespace `key_mode` has it: `F#:minor`. */
const keyValue = ({ tonic, mode }: Key) => `${plainName(tonic)}:${mode}`;

/** @param about title and artist, as far as they are known. */
export function writeJams(plan: PlanTimes, about: { title?: string; artist?: string }): string {
  const { durationSeconds, beats, downbeats, key, chords, sections } = plan;
  const tool = "Plain Mirror";
  const isDownbeat = new Set(downbeats);
  let inBar = 0;
  const beatData = beats
    .filter((time) => time >= 0 && time <= durationSeconds)
    .map((time) => {
      inBar = isDownbeat.has(time) ? 1 : inBar + 1;
      return { time, duration: 0, value: inBar, confidence: null };
    });
  return JSON.stringify(
    {
      file_metadata: {
        title: about.title ?? "",
        artist: about.artist ?? "",
        release: "",
        duration: durationSeconds,
        identifiers: {},
        jams_version: "0.3.4",
      },
      annotations: [
        annotation("beat", durationSeconds, tool, beatData),
        annotation(
          "chord_harte",
          durationSeconds,
          tool,
          chords.map(({ start, end, chord, confidence }) => ({
            time: start,
            duration: end - start,
            value: harteLabel(chord),
            confidence,
          })),
        ),
        annotation(
          "key_mode",
          durationSeconds,
          tool,
          key ? [{ time: 0, duration: durationSeconds, value: keyValue(key), confidence: null }] : [],
        ),
        annotation(
          "segment_open",
          durationSeconds,
          tool,
          sections.map(({ start, end, name }) => ({
            time: start,
            duration: end - start,
            value: name,
            confidence: null,
          })),
        ),
      ],
      sandbox: {},
    },
    null,
    1,
  );
}

/** What annotations say, in seconds; null where they say nothing of it. */
export interface ReadAnnotations {
  key: Key | null;
  chords: { start: Seconds; end: Seconds; chord: Chord | null }[] | null;
  sections: { start: Seconds; end: Seconds; name: string }[] | null;
  /** What could not be understood, in sentences. */
  warnings: string[];
}

const segmentNamespaces = [
  "segment_open",
  "segment_salami_function",
  "segment_salami_upper",
  "multi_segment",
];

/** Reads beats aside, all that a plan has: the first annotation of each kind counts. */
export function readJams(text: string): Outcome<ReadAnnotations> {
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch {
    return refuse(
      "bad-request",
      "This is not a JAMS file: it isn’t JSON.",
      "Export the annotations as JAMS.",
    );
  }
  const read = jamsSchema.safeParse(parsed);
  if (!read.success) {
    return refuse(
      "bad-request",
      "This is not a JAMS file: it has no list of annotations with namespace and data.",
      "Export the annotations as JAMS.",
    );
  }
  const { annotations } = read.data;
  const dataOf = (namespaces: readonly string[]) =>
    annotations.find(({ namespace, data }) => namespaces.includes(namespace) && data.length > 0)?.data ??
    null;
  const warnings: string[] = [];
  const chordData = dataOf(["chord", "chord_harte"]);
  const chords = chordData?.flatMap(({ time, duration, value }) => {
    const chord = typeof value === "string" ? readChord(value) : undefined;
    if (chord === undefined) {
      warnings.push(
        `The chord “${String(value)}” at ${time.toFixed(2)} s is not understood; it was left out.`,
      );
      return [];
    }
    return [{ start: time, end: time + duration, chord }];
  });
  const sections = dataOf(segmentNamespaces)?.flatMap(({ time, duration, value }) =>
    duration > 0
      ? [{ start: time, end: time + duration, name: String(value).slice(0, 40) || "section" }]
      : [],
  );
  const keyData = dataOf(["key_mode"])?.[0]?.value;
  const key = typeof keyData === "string" ? readKey(keyData.replace(":", " ")) : null;
  if (keyData !== undefined && !key) warnings.push(`The key “${String(keyData)}” is not understood.`);
  const hasAny = (items: readonly unknown[] | undefined) => (items?.length ?? 0) > 0;
  if (!hasAny(chords) && !hasAny(sections) && !key) {
    return refuse("bad-request", "This JAMS file has neither chords, key nor segments that can be read.");
  }
  const rising = <T extends { start: Seconds }>(items: T[]) => [...items].sort((a, b) => a.start - b.start);
  return success({
    key,
    chords: chords && hasAny(chords) ? rising(chords) : null,
    sections: sections && hasAny(sections) ? rising(sections) : null,
    warnings,
  });
}
