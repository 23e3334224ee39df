/** The description of the interface against the routes that there are, and against the published schema of OpenAPI. */
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { Validator } from "@seriousme/openapi-schema-validator";
import { openApi, operations } from "./openApi";

const root = path.join("src", "app", "api");

/** Addresses of all routes with the methods that they export. */
const routes = readdirSync(root, { recursive: true, encoding: "utf8" })
  .filter((name) => path.basename(name) === "route.ts")
  .map((name) => {
    const source = readFileSync(path.join(root, name), "utf8");
    const methods = [...source.matchAll(/export const (GET|PUT|POST|DELETE)\b/g)].map(([, own]) =>
      own!.toLowerCase(),
    );
    const address = `/api/${path.dirname(name).split(path.sep).join("/")}`.replace(/\[(\w+)\]/g, "{$1}");
    return [address, methods.sort()] as const;
  });

describe("the description of the interface", () => {
  it("names every route with its methods, and no other", () => {
    const described = Object.entries(operations).map(
      ([address, methods]) => [address, Object.keys(methods).sort()] as const,
    );
    const sorted = (list: readonly (readonly [string, readonly string[]])[]) =>
      [...list].sort((a, b) => (a[0] < b[0] ? -1 : 1));
    expect(sorted(described)).toEqual(sorted(routes));
  });

  it("is valid by the published schema of OpenAPI 3.1", async () => {
    const validator = new Validator();
    const result = await validator.validate(structuredClone(openApi()));
    expect(result.errors ?? []).toEqual([]);
    expect(result.valid).toBe(true);
    expect(validator.version).toBe("3.1");
  });

  it("says what requests must hold, from the schemas that read them", () => {
    const { paths } = openApi() as {
      paths: Record<
        string,
        Record<
          string,
          { operationId: string; parameters?: { name: string; required: boolean; schema: object }[] }
        >
      >;
    };
    const items = paths["/api/studies/{studyId}/items"]!.put!;
    expect(items.parameters!.find(({ name }) => name === "role")).toMatchObject({
      required: true,
      schema: { enum: ["reference", "version", "stem", "candidate", "yardstick"] },
    });
    expect(items.parameters!.find(({ name }) => name === "note")!.required).toBe(false);
    const ids = Object.values(paths).flatMap((methods) =>
      Object.values(methods).map((own) => own.operationId),
    );
    expect(new Set(ids).size).toBe(ids.length);
  });
});
