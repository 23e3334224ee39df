/**
 * `npm run --silent study -- …`: what the pages do, for scripts. Talks to the server that is running,
 * or works on the data folder itself where none is.
 */
import { createReadStream, createWriteStream } from "node:fs";
import { stat } from "node:fs/promises";
import path from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { ReadableStream as NodeReadableStream } from "node:stream/web";
import { z } from "zod";
import { sentenceOf, type Refusal } from "@/core/outcome";
import { fixed, points, signed } from "@/models/format";
import { changeWords } from "@/models/progress";
import { studyStateSchema, type StudyState } from "@/models/studyState";
import type { Call } from "./studyServer";
import { deliver, giveUp, readWords, unwritable, type Command, type Terminal } from "./terminal";

const usage = [
  "study list",
  "study make REFERENCE [--title TITLE]",
  "study add STUDY FILE [--note TEXT]",
  "study match STUDY [--version N] [--json OUT.json]",
  "study report STUDY [--version N] [--format markdown|csv|json] [--out FILE]",
  "study save STUDY --out FILE.zip",
  "study open FILE.zip",
].join("\n       ");

const options = {
  title: { type: "string" },
  note: { type: "string" },
  version: { type: "string" },
  json: { type: "string" },
  format: { type: "string" },
  out: { type: "string" },
  server: { type: "string" },
} as const;

type Values = ReturnType<typeof readWords<typeof options>>["values"];

/** An answer as JSON; ends with its sentence where it is a refusal. */
async function answer<T>(response: Promise<Response>, schema: z.ZodType<T>): Promise<T> {
  const got = await response;
  if (!got.ok) return giveUp(await sentenceIn(got));
  return schema.parse(await got.json());
}

async function sentenceIn(response: Response): Promise<string> {
  try {
    return sentenceOf(((await response.json()) as { refusal: Refusal }).refusal);
  } catch {
    return `The server answered with ${response.status}.`;
  }
}

const listSchema = z.array(z.object({ id: z.string(), title: z.string(), addedAt: z.number() }));
const addedSchema = z.object({
  studyId: z.string(),
  number: z.number().nullable(),
  recognised: z.string().optional(),
});

/** The id of a study that is named by its id or its title. */
async function studyNamed(call: Call, name: string): Promise<string> {
  const all = await answer(call("GET", "/api/studies"), listSchema);
  const found = all.filter(({ id, title }) => id === name || title === name);
  if (found.length === 1) return found[0]!.id;
  return giveUp(
    found.length === 0
      ? `There is no study “${name}”. “study list” names them.`
      : `There are ${found.length} studies “${name}”. Use the id of one: ${found.map(({ id }) => id).join(", ")}.`,
  );
}

async function send(call: Call, address: string, file: string): Promise<z.infer<typeof addedSchema>> {
  const size = await stat(file).then(
    (found) => (found.isFile() ? found.size : null),
    () => null,
  );
  if (size === null) return giveUp(`${file}: this file cannot be read.`);
  const body = Readable.toWeb(createReadStream(file)) as ReadableStream<Uint8Array>;
  return answer(call("PUT", address, { body, size }), addedSchema);
}

const nameOf = (file: string) => encodeURIComponent(path.basename(file));

/** Twenty versions of twenty minutes take less. */
const longestWaitMs = 60 * 60_000;

/** The state of a study once nothing is being worked out any more. */
async function settled(call: Call, id: string): Promise<StudyState> {
  for (const end = Date.now() + longestWaitMs; Date.now() < end;) {
    const state = await answer(call("GET", `/api/studies/${id}`), studyStateSchema);
    if (!state.working) return state;
    await new Promise((resolve) => setTimeout(resolve, 500));
  }
  return giveUp("This is still being worked out. Ask again later with “study match”.");
}

/** A version in one or two lines. */
function versionWords({ number, match, note, problem, changes }: StudyState["versions"][number]): string {
  if (match === null) return `version ${number}: ${problem ?? "not comparable"}`;
  const about = note === "" ? "" : ` (${note})`;
  const moved = changes.length === 0 ? "" : `: ${changeWords(changes, 4, 2)}`;
  return `version ${number}${about}: match ${points(match)}${moved}`;
}

/** What a command works with. */
interface Task {
  call: Call;
  terminal: Terminal;
  values: Values;
  first: string;
  second: string;
}

function versionIn(state: StudyState, { values }: Task): StudyState["versions"][number] {
  const wanted = values.version === undefined ? null : Number(values.version);
  const found = wanted === null ? state.versions.at(-1) : state.versions.find((own) => own.number === wanted);
  return (
    found ??
    giveUp(wanted === null ? "This study has no version yet." : `There is no version ${values.version}.`)
  );
}

/** Writes an answer to a file, or prints it. */
async function keep(response: Promise<Response>, { values, terminal }: Task): Promise<void> {
  const got = await response;
  if (!got.ok || !got.body) return giveUp(await sentenceIn(got));
  const from = Readable.fromWeb(got.body as NodeReadableStream<Uint8Array>);
  if (values.out === undefined) await pipeline(from, terminal.output, { end: false });
  else await pipeline(from, createWriteStream(values.out)).catch(() => unwritable(values.out!));
}

const commands: Record<string, (task: Task) => Promise<void>> = {
  async list({ call, terminal }) {
    for (const { id, title } of await answer(call("GET", "/api/studies"), listSchema))
      terminal.print(`${id}  ${title}`);
  },
  async make({ call, terminal, values, first }) {
    const { studyId } = await send(call, `/api/studies?name=${nameOf(first)}`, first);
    if (values.title !== undefined) {
      const state = await answer(call("GET", `/api/studies/${studyId}`), studyStateSchema);
      const patch = [{ path: ["study", "title"], from: state.title, to: values.title }];
      const edits = [{ label: `Renamed to “${values.title}”`.slice(0, 200), patch }];
      await answer(call("POST", `/api/studies/${studyId}/edits`, { json: { edits } }), z.unknown());
    }
    terminal.print(studyId);
    const { reference } = await settled(call, studyId);
    const heard = reference?.bpm
      ? `${fixed(reference.bpm, 2)} BPM`
      : (reference?.problem ?? "no tempo found");
    terminal.say(`${path.basename(first)}: ${heard}`);
  },
  async add({ call, terminal, values, first, second }) {
    const id = await studyNamed(call, first);
    const note = encodeURIComponent(values.note ?? "");
    const address = `/api/studies/${id}/items?role=version&name=${nameOf(second)}&note=${note}`;
    const { number, recognised } = await send(call, address, second);
    if (recognised !== undefined) return terminal.print(recognised);
    const state = await settled(call, id);
    const version = state.versions.find((own) => own.number === number);
    if (version) terminal.print(versionWords(version));
    if (version?.match && state.target !== null)
      terminal.print(`target ${points(state.target)}: ${signed(version.match - state.target, 0)}`);
  },
  async match(task) {
    const { call, terminal, values, first } = task;
    const state = await settled(call, await studyNamed(call, first));
    if (values.json !== undefined) return deliver(state, values.json, terminal);
    const version = versionIn(state, task);
    terminal.print(versionWords(version));
    const worst = Object.entries(version.aspects)
      .filter(([, own]) => own !== null)
      .sort((a, b) => a[1]! - b[1]!);
    for (const [name, own] of worst) terminal.print(`  ${points(own).padStart(3)}  ${name}`);
    for (const { name, score } of version.elements)
      if (score !== null) terminal.print(`  ${points(score).padStart(3)}  ${name}`);
  },
  async report(task) {
    const { call, values, first } = task;
    const id = await studyNamed(call, first);
    await settled(call, id);
    const query = new URLSearchParams({ format: values.format ?? "markdown" });
    if (values.version !== undefined) query.set("version", values.version);
    await keep(call("GET", `/api/studies/${id}/report?${query}`), task);
  },
  async save(task) {
    const { call, values, first } = task;
    if (values.out === undefined) return giveUp("Say where to: --out FILE.zip");
    await keep(call("GET", `/api/studies/${await studyNamed(call, first)}/archive`), task);
  },
  async open({ call, terminal, first }) {
    if (!/\.zip$/i.test(first)) return giveUp(`${first}: this is no archive; they end in .zip.`);
    const { studyId } = await send(call, `/api/studies?name=${nameOf(first)}`, first);
    terminal.print(studyId);
    await settled(call, studyId);
  },
};

const counts: Record<string, number> = { list: 0, add: 2 };

/** How a server is reached: by its address, or else as is usual. */
type Connect = (server: string | undefined) => Promise<{ call: Call; end(): Promise<void> }>;

/** The command, with a server that is reached so. */
export const study =
  (connect: Connect): Command =>
  async (words, terminal) => {
    const {
      values,
      positionals: [command = "", ...names],
    } = readWords(words, options, usage);
    const run = Object.hasOwn(commands, command) ? commands[command] : undefined;
    if (!run || names.length !== (counts[command] ?? 1)) return giveUp(`Usage: ${usage}`);
    const [first = "", second = ""] = names;
    const { call, end } = await connect(values.server);
    try {
      await run({ call, terminal, values, first, second });
    } finally {
      await end();
    }
  };
