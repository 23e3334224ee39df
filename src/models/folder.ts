/** A watched folder as pages show it. */
import type { Refusal } from "@/core/outcome";

/** A file in the folder that is no version yet. */
export interface WaitingFile {
  name: string;
  /** Why it is not taken; null while it is still growing or being read. */
  refusal: Refusal | null;
}

export interface FolderState {
  path: string;
  /** Why the folder cannot be watched; null where it is. */
  refusal: Refusal | null;
  waiting: WaitingFile[];
  /** Items that it has brought since the server was started, oldest first. */
  arrived: string[];
}
