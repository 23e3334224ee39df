import { z } from "zod";

/** What undo and redo are asked for. */
export const turnSchema = z.object({ id: z.number().int().min(1).nullable() });
