/** Requests that no page sends: every field of every route with values that it must not take. */
import { z } from "zod";
import type { Source } from "./mutate";
import { ask, rowsOf, type TestedServer } from "./server";

export interface RequestCase {
  name: string;
  send(): Promise<Response>;
}

const oddNumbers = [-1, 0, 0.5, 1e7, 1e15, 1e308, -1e308, null];
const oddValues: unknown[] = [
  ...oddNumbers,
  "",
  "x".repeat(100_000),
  [],
  {},
  [[]],
  true,
  "__proto__",
  "\u0000",
  "../../etc",
];

/** A value nested so deep that no parser follows it. */
const nested = (depth: number) => "[".repeat(depth) + "]".repeat(depth);

/** Fields of the document of a study that can be edited, by path. */
const editableFields = (itemId: string, elementId: string): string[][] => [
  ["study", "title"],
  ["study", "removed"],
  ["study", "aspectWeights", "tempo"],
  ["study", "intended", "bpm"],
  ["study", "intended", "semitones"],
  ["study", "intended", "drums"],
  ["study", "target"],
  ["study", "folder"],
  ["study", "marks"],
  ["study", "marks", "tempo"],
  ["elementOrder"],
  ["elements", elementId, "fromHz"],
  ["elements", elementId, "name"],
  ["elements", elementId, "weight"],
  ...["note", "elementId", "offsetSeconds", "coverage", "chosenFor", "starred", "removed"].map((field) => [
    "items",
    itemId,
    field,
  ]),
  ...["bpm", "manner", "beatsPerBar", "barOneAt", "nudgeSeconds"].map((field) => [
    "items",
    itemId,
    "grid",
    field,
  ]),
  ["items", itemId, "harmony", "key"],
  ["items", itemId, "harmony", "chords"],
  ["items", itemId, "form", "sections"],
  ["items", itemId, "drums", "added"],
  ["items", itemId, "drums", "removed"],
  ["items", itemId, "drums", "imported"],
  ["items", itemId, "hits", "leftOut"],
  ["items", itemId, "bass", "added"],
  ["items", itemId, "bass", "removed"],
];

const hugeLists: [path: string[], list: unknown[]][] = [
  [["coverage"], [{ referenceFirst: 1, versionFirst: 1, bars: 10_000_000 }]],
  [
    ["coverage"],
    Array.from({ length: 199 }, (_, i) => ({ referenceFirst: 1e4 * i, versionFirst: 1e4 * i, bars: 9999 })),
  ],
  [["form", "sections"], [{ firstBar: 1, lastBar: 1e7, name: "x", letter: "A" }]],
  [
    ["form", "sections"],
    Array.from({ length: 4999 }, (_, i) => ({ firstBar: i + 1, lastBar: i + 1, name: "x", letter: "A" })),
  ],
  [["harmony", "chords"], [{ startBeat: 0, endBeat: 1e15, chord: null, confidence: 1 }]],
  [
    ["harmony", "chords"],
    Array.from({ length: 4999 }, (_, i) => ({ startBeat: i, endBeat: i + 1, chord: null, confidence: 1 })),
  ],
  [
    ["drums", "added"],
    Array.from({ length: 19_999 }, (_, i) => ({ time: i / 1e4, voice: "kick", velocity: 1 })),
  ],
];

/** All cases, against the first two studies of a server. */
export async function requestCases(server: TestedServer, source: Source): Promise<RequestCase[]> {
  const items = z
    .array(z.object({ id: z.string(), study_id: z.string(), file_hash: z.string() }))
    .parse(
      await rowsOf(
        server.folder,
        "SELECT id, study_id, file_hash FROM items WHERE removed_at IS NULL ORDER BY rowid",
      ),
    );
  const [own] = items;
  const foreign = items.find(({ study_id }) => study_id !== own!.study_id) ?? own!;
  const { id: itemId, study_id: studyId, file_hash: hash } = own!;
  const [element] = await rowsOf(
    server.folder,
    `SELECT id FROM elements WHERE study_id = '${studyId}' LIMIT 1`,
  );
  const json = (method: string, where: string, body: unknown) => () =>
    ask(server, method, where, typeof body === "string" ? body : JSON.stringify(body), {
      "content-type": "application/json",
    });
  const get =
    (where: string, headers: Record<string, string> = {}) =>
    () =>
      fetch(server.address + where, { headers });
  const edits = `/api/studies/${studyId}/edits`;
  const edit = (patch: unknown) => json("POST", edits, { edits: [{ label: "x", patch }] });
  const cases: RequestCase[] = [];
  const add = (name: string, send: () => Promise<Response>) => cases.push({ name, send });

  for (const path of editableFields(itemId, String(element?.id))) {
    for (const to of oddValues) {
      // What is there now is not known here: both the absent and the usual empty value are tried.
      add(`edit ${path.join(".")} to ${JSON.stringify(to).slice(0, 40)}`, edit([{ path, to }]));
      add(`edit ${path.join(".")} from null`, edit([{ path, from: null, to }]));
    }
  }
  for (const [path, list] of hugeLists)
    add(
      `a list of ${list.length} in ${path.join(".")}`,
      edit([{ path: ["items", itemId, ...path], to: list }]),
    );
  for (const path of [
    ["items", foreign.id, "note"],
    ["items", "nobody", "note"],
    ["__proto__", "x"],
    ["items", "__proto__", "note"],
    [],
  ])
    add(`edit ${path.join(".")}`, edit([{ path, from: "", to: "x" }]));
  for (const body of [
    "",
    "null",
    "[]",
    "{",
    nested(200_000),
    `{"edits":${nested(100_000)}}`,
    JSON.stringify({ edits: "x" }),
    "x".repeat(6_000_000),
  ]) {
    for (const where of [
      edits,
      `/api/studies/${studyId}/undo`,
      `/api/studies/${studyId}/redo`,
      "/api/studies",
    ])
      add(`POST ${where} with ${body.length} bytes`, json("POST", where, body));
  }
  for (const id of [...oddValues, 999_999_999])
    add(`undo ${JSON.stringify(id).slice(0, 40)}`, json("POST", `/api/studies/${studyId}/undo`, { id }));
  for (const id of ["%ff", "%00", "..%2f..", "x".repeat(500), "'; drop table studies", foreign.id]) {
    const where = [
      `/studies/${id}/overview`,
      `/api/studies/${id}/edits`,
      `/api/studies/${id}/report?format=json`,
      `/api/studies/${id}`,
      `/api/studies/${id}/archive`,
      `/studies/${studyId}~${id}/yardstick`,
      `/api/items/${id}/plan?format=jams`,
      `/api/curves/${id}/9/overview`,
      `/api/audio/${id}/0`,
    ];
    for (const one of where) add(`GET ${one.slice(0, 60)}`, get(one));
    add(
      `POST /api/studies/${id.slice(0, 20)}/edits`,
      json("POST", `/api/studies/${id}/edits`, { edits: [] }),
    );
    for (const body of [{ from: id, what: "yardstick" }, { from: studyId, what: id }, { from: [id] }])
      add(`yardstick of ${id.slice(0, 20)}`, json("POST", `/api/studies/${studyId}/yardstick`, body));
    add(`POST /api/items/${id.slice(0, 20)}/analysis`, json("POST", `/api/items/${id}/analysis`, ""));
    add(`PUT /api/items/${id.slice(0, 20)}/annotations`, json("PUT", `/api/items/${id}/annotations`, "{}"));
    add(`DELETE /api/studies/${id.slice(0, 20)}`, json("DELETE", `/api/studies/${id}`, ""));
  }
  for (const value of [
    "1e308",
    "-1",
    "NaN",
    "Infinity",
    "%ff",
    "9".repeat(400),
    "x",
    "-99999-99999",
    "5-1",
    "0x10",
  ]) {
    for (const name of ["version", "bars", "from", "to", "element", "grid"])
      add(
        `view with ${name}=${value.slice(0, 20)}`,
        get(`/studies/${studyId}/overview?${name}=${value}&to=1e308&from=0`),
      );
    add(`drums of bars ${value.slice(0, 20)}`, get(`/api/items/${itemId}/drums?format=midi&bars=${value}`));
    add(`hits of ${value.slice(0, 20)}`, get(`/api/items/${itemId}/hits/${value}/candidates`));
    add(
      `part ${value.slice(0, 20)}`,
      get(`/api/items/${itemId}/lens?part=${value}&rest=${value}&from=${value}`),
    );
    for (const what of ["sound", "layers"])
      add(
        `${what} for ${value.slice(0, 20)}`,
        get(
          `/api/items/${itemId}/${what}?track=${itemId}&hit=${value}&semitones=${value}&decay=${value}&layer=${value}`,
        ),
      );
    add(
      `report of version ${value.slice(0, 20)}`,
      get(`/api/studies/${studyId}/report?format=json&version=${value}&bars=${value}&parts=${value}`),
    );
    add(`stand-in ${value.slice(0, 20)}`, get(`/studies/${studyId}~${value}/overview`));
    add(`report as ${value.slice(0, 20)}`, get(`/api/studies/${studyId}/report?format=${value}`));
    add(`tempo near ${value.slice(0, 20)}`, get(`/api/items/${itemId}/tempo?near=${value}`));
    add(`chunk ${value.slice(0, 20)}`, get(`/api/audio/${hash}/${value}?part=${value}`));
    add(`curve ${value.slice(0, 20)}`, get(`/api/curves/${hash}/${value}/${value}`));
    add(
      `upload as ${value.slice(0, 20)}`,
      json("PUT", `/api/studies/${studyId}/items?role=${value}&parent=${value}&name=${value}`, "x"),
    );
  }
  for (const text of [
    "{}",
    "[]",
    "null",
    nested(150_000),
    `{"annotations":${nested(50_000)}}`,
    JSON.stringify({
      annotations: Array.from({ length: 20_000 }, () => ({
        namespace: "chord",
        data: [{ time: 1e308, duration: -1, value: "C" }],
      })),
    }),
    "x".repeat(7_000_000),
  ])
    add(`annotations of ${text.length} bytes`, json("PUT", `/api/items/${itemId}/annotations`, text));
  for (const bytes of [
    "",
    "PK",
    "PK\u0003\u0004".padEnd(5000, "\u0000"),
    `PK\u0005\u0006${"\uffff".repeat(20)}`,
    "x".repeat(2_000_000),
  ])
    add(`an archive of ${bytes.length} bytes`, json("PUT", "/api/studies?name=study.zip", bytes));
  for (const host of ["evil.example", "localhost.evil.example", "127.0.0.1.evil.example:80", ""])
    for (const where of ["/", `/studies/${studyId}/overview`, "/api/events", `/api/audio/${hash}/0`])
      add(`${where.slice(0, 30)} under ${host}`, get(where, { host }));
  // In an order of chance, so that none leans on another.
  for (let i = cases.length - 1; i > 0; i--) {
    const j = source.below(i + 1);
    [cases[i], cases[j]] = [cases[j]!, cases[i]!];
  }
  return cases;
}
