/**
 * A stand-in for a libSQL server: Hrana 2 over HTTP ("The Hrana protocol specification", version 2, libSQL
 * project, 2023; from memory), one pipeline a stream, over a
 * database in a file.
 */
import { mkdtemp, rm } from "node:fs/promises";
import { createServer, type IncomingMessage } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";
import { createClient, type InValue, type Transaction, type Value } from "@libsql/client";

type SentValue =
  | { type: "null" }
  | { type: "integer"; value: string }
  | { type: "float"; value: number }
  | { type: "text"; value: string }
  | { type: "blob"; base64: string };
interface Statement {
  sql?: string;
  sql_id?: number;
  args?: SentValue[];
  want_rows?: boolean;
}
type Condition =
  | { type: "ok" | "error"; step: number }
  | { type: "not"; cond: Condition }
  | { type: "and" | "or"; conds: Condition[] }
  | { type: "is_autocommit" };
type Request =
  | { type: "execute"; stmt: Statement }
  | { type: "batch"; batch: { steps: { condition?: Condition; stmt: Statement }[] } }
  | { type: "sequence"; sql?: string; sql_id?: number }
  | { type: "store_sql"; sql_id: number; sql: string }
  | { type: "close_sql"; sql_id: number }
  | { type: "close" };

const read = (value: SentValue): InValue => {
  if (value.type === "null") return null;
  if (value.type === "blob") return Buffer.from(value.base64, "base64");
  return value.type === "integer" ? BigInt(value.value) : value.value;
};
const written = (value: Value): SentValue => {
  if (value === null) return { type: "null" };
  if (typeof value === "string") return { type: "text", value };
  if (value instanceof ArrayBuffer) return { type: "blob", base64: Buffer.from(value).toString("base64") };
  return Number.isInteger(Number(value))
    ? { type: "integer", value: String(value) }
    : { type: "float", value: Number(value) };
};
const failure = (error: unknown) => ({ message: (error as Error).message, code: "SQLITE_ERROR" });

async function bodyOf(request: IncomingMessage): Promise<string> {
  const parts: Buffer[] = [];
  for await (const part of request) parts.push(part as Buffer);
  return Buffer.concat(parts).toString("utf8");
}

/** Begins to listen; `token` is what it asks for. */
export async function databaseServer(token: string) {
  const folder = await mkdtemp(path.join(tmpdir(), "plain-mirror-database-"));
  const client = createClient({ url: `file:${path.join(folder, "server.db")}` });
  let transaction: Transaction | null = null;

  async function pipeline(requests: readonly Request[]) {
    const texts = new Map<number, string>();
    const run = async ({ sql, sql_id, args = [] }: Statement) => {
      const text = sql ?? texts.get(sql_id!)!;
      const none = { cols: [], rows: [], affected_row_count: 0, last_insert_rowid: null };
      if (/^\s*begin/i.test(text)) {
        transaction = await client.transaction("write");
        return none;
      }
      const ends = /^\s*(commit|rollback)/i.exec(text)?.[1]?.toLowerCase() as
        | "commit"
        | "rollback"
        | undefined;
      if (ends) {
        await transaction![ends]();
        transaction = null;
        return none;
      }
      const { columns, rows, rowsAffected, lastInsertRowid } = await (transaction ?? client).execute({
        sql: text,
        args: args.map(read),
      });
      return {
        cols: columns.map((name) => ({ name })),
        rows: rows.map((row) => columns.map((_, i) => written(row[i]!))),
        affected_row_count: rowsAffected,
        last_insert_rowid: lastInsertRowid === undefined ? null : String(lastInsertRowid),
      };
    };
    const results: unknown[] = [];
    for (const request of requests) {
      try {
        let response: object = {};
        if (request.type === "execute") response = { result: await run(request.stmt) };
        else if (request.type === "store_sql") texts.set(request.sql_id, request.sql);
        else if (request.type === "sequence")
          await client.executeMultiple(request.sql ?? texts.get(request.sql_id!)!);
        else if (request.type === "batch") {
          const done: (object | null)[] = [];
          const failed: (object | null)[] = [];
          const holds = (condition: Condition): boolean => {
            if (condition.type === "ok") return Boolean(done[condition.step]);
            if (condition.type === "error") return Boolean(failed[condition.step]);
            if (condition.type === "not") return !holds(condition.cond);
            if (condition.type === "and") return condition.conds.every(holds);
            return condition.type === "or" ? condition.conds.some(holds) : transaction === null;
          };
          for (const [i, { condition, stmt }] of request.batch.steps.entries()) {
            done[i] = failed[i] = null;
            if (condition && !holds(condition)) continue;
            await run(stmt).then(
              (result) => (done[i] = result),
              (error: unknown) => (failed[i] = failure(error)),
            );
          }
          response = { result: { step_results: done, step_errors: failed } };
        }
        results.push({ type: "ok", response: { type: request.type, ...response } });
      } catch (error) {
        results.push({ type: "error", error: failure(error) });
      }
    }
    return { baton: null, base_url: null, results };
  }

  // One stream after the other: there is one connection.
  let before: Promise<unknown> = Promise.resolve();
  const server = createServer((request, response) => {
    before = before.then(async () => {
      if (request.headers.authorization !== `Bearer ${token}`) return response.writeHead(401).end();
      if (request.method !== "POST" || request.url !== "/v2/pipeline") return response.writeHead(404).end();
      const { requests } = JSON.parse(await bodyOf(request)) as { requests: Request[] };
      return response
        .writeHead(200, { "content-type": "application/json" })
        .end(JSON.stringify(await pipeline(requests)));
    });
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    /** What it has stored, asked behind its back. */
    client,
    stop: async () => {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
      client.close();
      await rm(folder, { recursive: true });
    },
  };
}
