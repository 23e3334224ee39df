/** The HTTP interface as an OpenAPI 3.1 document, made from the schemas that the routes read requests with. */
import { z } from "zod";
import { studyStateSchema } from "@/models/studyState";
import {
  addedItemSchema,
  chunkSchema,
  drumFileSchema,
  editsSchema,
  newStudySchema,
  placeSchema,
  planFileSchema,
  reportSchema,
  lensFileSchema,
  soundSchema,
  takenTracksSchema,
  tempoSchema,
  turnSchema,
  uploadSchema,
} from "./requests";

type Json = Record<string, unknown>;

interface Operation {
  summary: string;
  query?: z.ZodObject;
  /** JSON in the body, or a file's bytes. */
  body?: z.ZodType | "file";
  /** What is answered: JSON, or a file of a type. */
  answer?: z.ZodType | { type: string };
  status?: number;
}

const addedSchema = z.object({
  studyId: z.string(),
  itemId: z.string(),
  number: z.number().int().nullable(),
  recognised: z.string().optional(),
});
const appliedSchema = z.object({
  id: z.number().int(),
  label: z.string(),
  patch: z.array(z.unknown()),
  sequence: z.number().int(),
});
const listedStudySchema = z.object({ id: z.string(), title: z.string(), addedAt: z.number() });
const listedEditSchema = z.object({
  id: z.number().int(),
  label: z.string(),
  createdAt: z.number(),
  undone: z.boolean(),
});

/** Every route by its address and method; the addresses are those of the folders in `src/app/api`. */
export const operations: Record<string, Partial<Record<"get" | "put" | "post" | "delete", Operation>>> = {
  "/api/studies": {
    get: { summary: "All studies, newest first", answer: z.array(listedStudySchema) },
    post: {
      summary: "Make an empty study",
      body: newStudySchema,
      answer: z.object({ studyId: z.string() }),
      status: 201,
    },
    put: {
      summary: "Make a study around a reference, or open the archive of one (a name that ends in .zip)",
      query: uploadSchema,
      body: "file",
      answer: addedSchema,
      status: 201,
    },
  },
  "/api/studies/{studyId}": {
    get: {
      summary:
        "What a study holds, how far the work on it is, and what its versions match at; with ~N after the id version N stands in for the reference",
      answer: studyStateSchema,
    },
    delete: { summary: "Remove a deleted study and its files for good", answer: z.object({}) },
  },
  "/api/studies/{studyId}/items": {
    put: {
      summary: "Add a file as the reference, a version, a stem, a candidate or a track of the yardstick",
      query: addedItemSchema.extend(uploadSchema.shape),
      body: "file",
      answer: addedSchema,
      status: 201,
    },
  },
  "/api/studies/{studyId}/edits": {
    get: { summary: "The list of changes, newest first", answer: z.array(listedEditSchema) },
    post: {
      summary: "Change a study by patches of its document; all of them or none",
      body: editsSchema,
      answer: z.array(appliedSchema),
    },
  },
  "/api/studies/{studyId}/undo": {
    post: { summary: "Undo a change, or the newest", body: turnSchema, answer: appliedSchema },
  },
  "/api/studies/{studyId}/redo": {
    post: {
      summary: "Do a change again, or the one undone last",
      body: turnSchema,
      answer: appliedSchema,
    },
  },
  "/api/studies/{studyId}/report": {
    get: {
      summary: "The report; with ~N after the id version N stands in for the reference",
      query: reportSchema,
      answer: { type: "text/markdown" },
    },
  },
  "/api/studies/{studyId}/archive": {
    get: { summary: "The whole study as a zip file", answer: { type: "application/zip" } },
  },
  "/api/studies/{studyId}/yardstick": {
    post: {
      summary: "Take tracks of another study into the yardstick",
      body: takenTracksSchema,
      answer: z.object({ added: z.number().int(), edit: appliedSchema.nullable() }),
      status: 201,
    },
  },
  "/api/items/{itemId}/analysis": {
    post: { summary: "Analyse a file again", answer: z.object({}) },
    delete: { summary: "Cancel the analysis of a file", answer: z.object({}) },
  },
  "/api/items/{itemId}/plan": {
    get: {
      summary: "Chords and sections of a track, or all its parts, as a file",
      query: planFileSchema,
      answer: { type: "application/octet-stream" },
    },
  },
  "/api/items/{itemId}/annotations": {
    put: {
      summary: "Take chords, key and sections from a JAMS file",
      body: z.object({}).loose(),
      answer: z.object({ studyId: z.string(), taken: z.string(), warnings: z.array(z.string()) }),
    },
  },
  "/api/items/{itemId}/drums": {
    get: {
      summary: "Drums of a track as a file",
      query: drumFileSchema,
      answer: { type: "application/octet-stream" },
    },
  },
  "/api/items/{itemId}/tempo": {
    get: {
      summary: "The tempo that is heard near one that was tapped",
      query: tempoSchema,
      answer: z.object({ bpm: z.number() }),
    },
  },
  "/api/items/{itemId}/hits": {
    get: { summary: "Typical hits of a track, measured", answer: z.object({}).loose() },
  },
  "/api/items/{itemId}/hits/{hit}": {
    get: { summary: "One typical hit as WAV", answer: { type: "audio/wav" } },
  },
  "/api/items/{itemId}/hits/{hit}/candidates": {
    get: { summary: "Candidates by how close they come to a drum", answer: z.object({}).loose() },
  },
  "/api/items/{itemId}/layers": {
    get: {
      summary: "Candidates that would fill what one lacks",
      query: placeSchema,
      answer: z.object({}).loose(),
    },
  },
  "/api/items/{itemId}/sound": {
    get: {
      summary: "A candidate as WAV, as it is or made to stand in for a drum",
      query: soundSchema,
      answer: { type: "audio/wav" },
    },
  },
  "/api/items/{itemId}/lens": {
    get: {
      summary: "A part that the lens lifts out of a track, or all but that, as WAV",
      query: lensFileSchema,
      answer: { type: "audio/wav" },
    },
  },
  "/api/audio/{hash}/{chunk}": {
    get: {
      summary: "A piece of a file's decoded samples, or of a part of them",
      query: chunkSchema.omit({ chunk: true }),
      answer: { type: "application/octet-stream" },
    },
  },
  "/api/curves/{hash}/{version}/{name}": {
    get: { summary: "A measured curve as raw bytes", answer: { type: "application/octet-stream" } },
  },
  "/api/events": {
    get: { summary: "Server-sent events: what has changed", answer: { type: "text/event-stream" } },
  },
  "/api/openapi": {
    get: { summary: "This description", answer: z.object({}).loose() },
  },
};

/** Any JSON value holds others, so it has a name; of recursive schemas there is no other. */
const withNames = (schema: Json): Json =>
  JSON.parse(
    JSON.stringify(schema).replace(/"#\/\$defs\/__schema\d+"|"#"/g, '"#/components/schemas/Json"'),
  ) as Json;

/** A schema as JSON Schema, as it is sent or as it is answered. */
function jsonSchema(schema: z.ZodType, io: "input" | "output"): Json {
  const {
    $schema: _dialect,
    $defs: _named,
    ...rest
  } = z.toJSONSchema(schema, { io, unrepresentable: "any" });
  return withNames(rest);
}

/** Any JSON value as JSON Schema, under its own name. */
function anyJson(): Json {
  const {
    $schema: _dialect,
    $defs = {},
    ...own
  } = z.toJSONSchema(z.json()) as Json & {
    $defs?: Record<string, Json>;
  };
  return withNames($defs.__schema0 ?? own);
}

function queryParameters(query: z.ZodObject): Json[] {
  const { properties = {}, required = [] } = jsonSchema(query, "input") as {
    properties?: Record<string, Json>;
    required?: string[];
  };
  return Object.entries(properties).map(([name, schema]) => ({
    name,
    in: "query",
    required: required.includes(name) && schema.default === undefined,
    schema,
  }));
}

const pathParameters = (address: string): Json[] =>
  [...address.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: "path",
    required: true,
    schema: { type: "string" },
  }));

const refusalSchema = z.object({
  refusal: z.object({ code: z.string(), sentence: z.string(), remedy: z.string().optional() }),
});

function described(address: string, method: string, own: Operation): Json {
  const { summary, query, body, answer, status = 200 } = own;
  const parameters = [...pathParameters(address), ...(query ? queryParameters(query) : [])];
  const content = (schema: Operation["answer"]): Json =>
    schema === undefined
      ? {}
      : schema instanceof z.ZodType
        ? { "application/json": { schema: jsonSchema(schema, "output") } }
        : { [schema.type]: {} };
  return {
    operationId: `${method}${address.replace(/^\/api/, "").replace(/[/{}]+(\w?)/g, (_, letter: string) => letter.toUpperCase())}`,
    summary,
    ...(parameters.length > 0 ? { parameters } : {}),
    ...(body === undefined
      ? {}
      : {
          requestBody: {
            required: true,
            content:
              body === "file"
                ? { "application/octet-stream": {} }
                : { "application/json": { schema: jsonSchema(body, "input") } },
          },
        }),
    responses: {
      [status]: { description: "Done", content: content(answer) },
      "4XX": {
        description: "Refused, with one plain sentence",
        content: { "application/json": { schema: { $ref: "#/components/schemas/Refusal" } } },
      },
    },
  };
}

/** The whole description. */
export const openApi = (): Json => ({
  openapi: "3.1.0",
  info: {
    title: "Plain Mirror",
    version: "0.1.0",
    description:
      "Requests that change something must carry an Origin header with the server's own address, as its pages do.",
  },
  servers: [{ url: "/" }],
  paths: Object.fromEntries(
    Object.entries(operations).map(([address, methods]) => [
      address,
      Object.fromEntries(
        Object.entries(methods).map(([method, own]) => [method, described(address, method, own)]),
      ),
    ]),
  ),
  components: { schemas: { Refusal: jsonSchema(refusalSchema, "output"), Json: anyJson() } },
});
