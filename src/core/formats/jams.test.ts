/**
 * Annotations against the schema of JAMS 0.3 and the namespaces that are used (Humphrey, Salamon,
 * Nieto, Forsyth, Bittner & Bello 2014, "JAMS: a JSON annotated music specification for reproducible
 * MIR research"): the document's shape and the patterns of values, from memory.
 */
import Ajv from "ajv";
import addFormats from "ajv-formats";
import { chordQualityNames, readChord } from "../harmony/chords";
import { madeUpStudy } from "../testing/study";
import { itemPlan } from "../study";
import { readJams, writeJams } from "./jams";
import { planTimes } from "./planTimes";

const interval = "((b*|#*)([1-9]|1[0-3]?))";
const shorthand =
  "(maj|min|dim|aug|1|5|sus2|sus4|maj6|min6|7|maj7|min7|dim7|hdim7|minmaj7|aug7|9|maj9|min9|11|maj11|min11|13|maj13|min13)";
const degrees = `(\\(\\*?${interval}(,\\*?${interval})*\\))`;
const values: Record<string, object> = {
  beat: { type: ["number", "null"] },
  chord_harte: {
    type: "string",
    pattern: `^(N|([A-G](b*|#*)((:${shorthand}${degrees}?)|(:${degrees}))?(/${interval})?))$`,
  },
  key_mode: {
    type: "string",
    pattern: "^(N|([A-G][b#]?)(:(major|minor|ionian|dorian|phrygian|lydian|mixolydian|aeolian|locrian))?)$",
  },
  segment_open: { type: "string" },
  tempo: { type: "number", minimum: 0 },
};

const text = { type: "string" };
const observation = (value: object) => ({
  type: "object",
  required: ["time", "duration", "value", "confidence"],
  additionalProperties: false,
  properties: {
    time: { type: "number", minimum: 0 },
    duration: { type: "number", minimum: 0 },
    value,
    confidence: { type: ["number", "null"] },
  },
});
const schema = {
  type: "object",
  required: ["annotations", "file_metadata", "sandbox"],
  additionalProperties: false,
  properties: {
    sandbox: { type: "object" },
    file_metadata: {
      type: "object",
      required: ["duration", "jams_version"],
      additionalProperties: false,
      properties: {
        title: text,
        artist: text,
        release: text,
        duration: { type: "number", minimum: 0 },
        identifiers: { type: "object" },
        jams_version: { type: "string", pattern: "^\\d+\\.\\d+\\.\\d+$" },
      },
    },
    annotations: {
      type: "array",
      items: {
        type: "object",
        required: ["namespace", "data", "annotation_metadata", "sandbox"],
        additionalProperties: false,
        properties: {
          namespace: { type: "string", enum: Object.keys(values) },
          time: { type: ["number", "null"], minimum: 0 },
          duration: { type: ["number", "null"], minimum: 0 },
          sandbox: { type: "object" },
          data: { type: "array" },
          annotation_metadata: {
            type: "object",
            required: ["curator"],
            additionalProperties: false,
            properties: {
              curator: {
                type: "object",
                properties: {
                  name: text,
                  email: { anyOf: [{ const: "" }, { type: "string", format: "email" }] },
                },
              },
              annotator: { type: "object" },
              version: { type: ["string", "number"] },
              corpus: text,
              annotation_tools: text,
              annotation_rules: text,
              validation: text,
              data_source: text,
            },
          },
        },
        oneOf: Object.entries(values).map(([namespace, value]) => ({
          properties: {
            namespace: { const: namespace },
            data: { type: "array", items: observation(value) },
          },
        })),
      },
    },
  },
};

const ajv = new Ajv({ allErrors: true, strictTypes: false, strict: false });
addFormats(ajv);
const validate = ajv.compile(schema);
const problems = (json: unknown) => {
  validate(json);
  return (validate.errors ?? []).map(({ instancePath, message }) => `${instancePath} ${message}`);
};

const { study, plans, ownGrids } = madeUpStudy();
const reference = study.reference!;
const plan = itemPlan(plans.get(reference.id)!.value, reference);
const grid = ownGrids.get(reference.id)!;
const written = (own = plan, tags = {}) =>
  JSON.parse(writeJams(planTimes(own, grid, reference.file.durationSeconds), tags)) as {
    annotations: { namespace: string; data: { time: number; duration: number; value: unknown }[] }[];
  };

describe("written annotations", () => {
  it("are as the schema asks", () => {
    expect(problems(written(plan, { title: "Paper lantern", artist: "Nobody" }))).toEqual([]);
  });

  it("are so with every quality on every root and over every bass", () => {
    const names = chordQualityNames.flatMap((quality) =>
      Array.from({ length: 12 }, (_, root) => ({ root, quality, bass: (root + 4) % 12 })),
    );
    const chords = names.map((chord, i) => ({
      startBeat: i / 4,
      endBeat: (i + 1) / 4,
      chord,
      confidence: 1,
    }));
    expect(problems(written({ ...plan, chords }))).toEqual([]);
  });

  it("are so where there is nothing to say", () => {
    expect(problems(written({ ...plan, key: null, chords: [], sections: [] }))).toEqual([]);
  });

  it("lie one behind the other within the file", () => {
    for (const { data } of written().annotations) {
      data.slice(1).forEach((own, i) => expect(own.time).toBeGreaterThanOrEqual(data[i]!.time));
      for (const { time, duration } of data)
        expect(time + duration).toBeLessThanOrEqual(reference.file.durationSeconds + 1e-6);
    }
  });

  it("the check itself fails where something is wrong", () => {
    const own = written();
    const chords = own.annotations.find(({ namespace }) => namespace === "chord_harte")!;
    chords.data[0]!.value = "Am7";
    expect(problems(own).join()).toMatch(/data\/0\/value/);
    expect(problems({ ...written(), annotations: [{ namespace: "chord_harte" }] })).not.toEqual([]);
  });
});

describe("annotations that are read", () => {
  const read = (annotations: unknown) => readJams(JSON.stringify({ annotations }));

  it.each<[string, unknown]>([
    ["no annotations at all", []],
    ["only what is not understood", [{ namespace: "mood", data: [{ time: 0, duration: 1, value: "warm" }] }]],
    ["no list", "many"],
    ["a time that is none", [{ namespace: "beat", data: [{ time: "soon", duration: 0, value: 1 }] }]],
  ])("%s are refused with a sentence", (_name, annotations) => {
    const outcome = read(annotations);
    expect(outcome.ok).toBe(false);
    if (!outcome.ok) expect(outcome.refusal.sentence).toMatch(/\.$/);
  });

  it("that are no JSON are refused with a sentence", () => {
    expect(readJams("{").ok).toBe(false);
  });

  it.each([
    ["F#:min", "F♯ minor"],
    ["Bb:maj7", "B♭ major seventh"],
    ["C:maj/3", "C major over E"],
  ])("a chord %s is read as any program writes it", (value) => {
    const outcome = read([{ namespace: "chord", data: [{ time: 0, duration: 2, value, confidence: 1 }] }]);
    if (!outcome.ok) throw new Error(outcome.refusal.sentence);
    const plain = value.replace(":min", "m").replace(":maj7", "maj7").replace(":maj/3", "/E");
    expect(outcome.value.chords![0]!.chord).toEqual(readChord(plain));
  });
});
