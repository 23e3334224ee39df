import { randomBytes } from "node:crypto";

/** A short random name for a row, fit for addresses. */
export const newId = (): string => randomBytes(8).toString("hex");
