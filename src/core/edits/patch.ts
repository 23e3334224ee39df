/**
 * Differences between two plain values as small, reversible patches: the log of edits keeps these in
 * place of whole copies, and undoing an edit applies its inverse to whatever the value is now.
 *
 * A patch is a list of operations. `set` replaces the value at a path (`undefined` = absent); `splice`
 * replaces a run of a list. Both carry what they replace, so that a patch can be inverted without the
 * value it came from, and so that applying it notices when something else changed the same place.
 */
import { z } from "zod";
import { refuse, success, type Outcome } from "../outcome";

export type Json = string | number | boolean | null | Json[] | { [key: string]: Json | undefined };

const { max, min } = Math;

/** Keys that reach into an object's prototype are no names. */
const forbidden = new Set(["__proto__", "constructor", "prototype"]);
const segment = z
  .string()
  .max(64)
  .refine((name) => !forbidden.has(name), "this name cannot be used");
const path = z.array(segment).min(1).max(8);
const json: z.ZodType<Json> = z.json() as z.ZodType<Json>;

export const operationSchema = z.union([
  z.object({
    path,
    at: z.number().int().min(0).max(100_000),
    from: z.array(json).max(20_000),
    to: z.array(json).max(20_000),
  }),
  z.object({ path, from: json.optional(), to: json.optional() }),
]);
export type Operation = z.infer<typeof operationSchema>;

export const patchSchema = z.array(operationSchema).max(2_000);
export type Patch = z.infer<typeof patchSchema>;

const isObject = (value: unknown): value is Record<string, Json | undefined> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** Whether two plain values are the same; absent and `undefined` properties are. */
export function sameValue(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (Array.isArray(a) && Array.isArray(b))
    return a.length === b.length && a.every((value, i) => sameValue(value, b[i]));
  if (!isObject(a) || !isObject(b)) return false;
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
  return [...keys].every((key) => sameValue(a[key], b[key]));
}

/** The operations that turn one value into another; none where they are the same. */
export function diff(before: unknown, after: unknown, at: readonly string[] = []): Patch {
  if (before === after || sameValue(before, after)) return [];
  if (isObject(before) && isObject(after)) {
    const keys = new Set([...Object.keys(before), ...Object.keys(after)]);
    return [...keys].flatMap((key) => diff(before[key], after[key], [...at, key]));
  }
  if (Array.isArray(before) && Array.isArray(after)) {
    const shorter = min(before.length, after.length);
    let head = 0;
    while (head < shorter && sameValue(before[head], after[head])) head++;
    let tail = 0;
    while (
      tail < shorter - head &&
      sameValue(before[before.length - 1 - tail], after[after.length - 1 - tail])
    )
      tail++;
    return [
      {
        path: [...at],
        at: head,
        from: before.slice(head, before.length - tail) as Json[],
        to: after.slice(head, after.length - tail) as Json[],
      },
    ];
  }
  return [
    {
      path: [...at],
      ...(before === undefined ? {} : { from: before as Json }),
      ...(after === undefined ? {} : { to: after as Json }),
    },
  ];
}

/** The patch that takes another one back. */
export const inverted = (patch: Patch): Patch =>
  [...patch].reverse().map((operation) =>
    "at" in operation
      ? { ...operation, from: operation.to, to: operation.from }
      : {
          path: operation.path,
          ...("to" in operation ? { from: operation.to } : {}),
          ...("from" in operation ? { to: operation.from } : {}),
        },
  );

const conflict = () =>
  refuse(
    "already-here",
    "A later change has touched the same place, so this one can't be applied on its own.",
    "Undo the later changes first.",
  );

/** Where a run stands in a list: at its place if it is still there, else the nearest place that has it. */
function placeOfRun(list: readonly Json[], run: readonly Json[], at: number): number | null {
  const fits = (place: number) => run.every((value, i) => sameValue(list[place + i], value));
  if (run.length === 0) return min(at, list.length);
  const last = list.length - run.length;
  for (let distance = 0; distance <= max(at, last - at); distance++) {
    if (at - distance >= 0 && at - distance <= last && fits(at - distance)) return at - distance;
    if (distance > 0 && at + distance <= last && fits(at + distance)) return at + distance;
  }
  return null;
}

function applied(value: Json | undefined, operation: Operation, depth: number): Outcome<Json | undefined> {
  const key = operation.path[depth];
  if (key !== undefined) {
    if (!isObject(value)) return conflict();
    const inner = applied(Object.hasOwn(value, key) ? value[key] : undefined, operation, depth + 1);
    if (!inner.ok) return inner;
    const { [key]: _old, ...rest } = value;
    return success(
      inner.value === undefined
        ? rest
        : Object.hasOwn(value, key)
          ? { ...value, [key]: inner.value }
          : { ...rest, [key]: inner.value },
    );
  }
  if ("at" in operation) {
    if (!Array.isArray(value)) return conflict();
    const place = placeOfRun(value, operation.from, operation.at);
    if (place === null) return conflict();
    return success([
      ...value.slice(0, place),
      ...operation.to,
      ...value.slice(place + operation.from.length),
    ]);
  }
  // What is as the patch wants it already needs no change.
  return sameValue(value, operation.from) || sameValue(value, operation.to)
    ? success(operation.to)
    : conflict();
}

/**
 * Applies a patch to a value, which is left as it was; parts that the patch does not touch are shared.
 *
 * @returns a refusal where the value no longer has what the patch replaces.
 */
export function applyPatch<T>(value: T, patch: Patch): Outcome<T> {
  let current = value as Json | undefined;
  for (const operation of patch) {
    const next = applied(current, operation, 0);
    if (!next.ok) return next;
    current = next.value;
  }
  return success(current as T);
}
