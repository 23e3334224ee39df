/**
 * Edits on their way: what is pressed counts at once, is sent one after the other, and each builds on
 * the one before, however fast keys are. Undo and redo stand in the same line.
 */
import { applyPatch, diff, type Patch } from "@/core/edits/patch";
import type { Outcome, Refusal } from "@/core/outcome";
import type { StudyDocument } from "@/core/study";

/** What the server made of an edit. */
export interface AppliedEdit {
  id: number;
  label: string;
  patch: Patch;
  /** The study's count after it. */
  sequence: number;
}

/** What the queue needs of the world around it. */
export interface EditPort {
  send(edits: { label: string; patch: Patch }[]): Promise<Outcome<AppliedEdit[]>>;
  turn(direction: "undo" | "redo", id: number | null): Promise<Outcome<AppliedEdit>>;
  /** Tells of what has been saved; `count` quick edits are told as one. */
  saved(edit: AppliedEdit, count: number): void;
  turned(direction: "undo" | "redo", edit: AppliedEdit): void;
  refused(refusal: Refusal): void;
}

type Change = (document: StudyDocument) => StudyDocument;

interface Pending {
  label: string;
  patch: Patch;
  /** How the patch was made, while it has not been sent: it is made again where the study changes before. */
  change: Change | null;
  /** The study's count once it has been saved; null while it is on its way. */
  sequence: number | null;
}

type Task = { kind: "edit"; pending: Pending } | { kind: "undo" | "redo"; id: number | null };

/** Edits sent in one request. */
const mostTogether = 50;

export class EditQueue {
  private base: StudyDocument;
  private sequence: number;
  private pending: Pending[] = [];
  private readonly tasks: Task[] = [];
  private running = false;
  private readonly listeners = new Set<() => void>();
  private shown: StudyDocument;

  constructor(
    base: StudyDocument,
    sequence: number,
    private readonly port: EditPort,
  ) {
    this.base = base;
    this.sequence = sequence;
    this.shown = base;
  }

  /** The study as it is with all edits, also those on their way. */
  get document(): StudyDocument {
    return this.shown;
  }

  /** Whether something is on its way. */
  get isSaving(): boolean {
    return this.running;
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** The newest document of the server, with its count: edits that it has are no longer laid over it. */
  setBase(base: StudyDocument, sequence: number): void {
    if (base === this.base) return;
    this.base = base;
    this.sequence = Math.max(this.sequence, sequence);
    this.settle(sequence);
  }

  /** Changes the study. Without effect where the change changes nothing. */
  edit(label: string, change: Change): void {
    const patch = diff(this.shown, change(this.shown));
    if (patch.length === 0) return;
    const pending: Pending = { label, patch, change, sequence: null };
    this.pending = [...this.pending, pending];
    this.tasks.push({ kind: "edit", pending });
    this.show();
    void this.run();
  }

  undo(id: number | null = null): void {
    this.tasks.push({ kind: "undo", id });
    void this.run();
  }

  redo(id: number | null = null): void {
    this.tasks.push({ kind: "redo", id });
    void this.run();
  }

  /** Something that was saved by another way, as an import: shown until the server's document has it. */
  add(edit: AppliedEdit): void {
    const added: Pending = { label: edit.label, patch: edit.patch, change: null, sequence: edit.sequence };
    const unsent = this.pending.findIndex((own) => own.change !== null);
    const at = unsent < 0 ? this.pending.length : unsent;
    this.pending = [...this.pending.slice(0, at), added, ...this.pending.slice(at)];
    this.show();
  }

  private settle(sequence: number): void {
    this.pending = this.pending.filter((own) => own.sequence === null || own.sequence > sequence);
    this.show();
  }

  private show(): void {
    let document = this.base;
    for (const own of this.pending) {
      // Made for the study as it is now: what was undone meanwhile, or changed by others, is not put back.
      if (own.change) own.patch = diff(document, own.change(document));
      const next = applyPatch(document, own.patch);
      // What does not fit any more was overtaken by somebody else's edit; the server decides.
      if (next.ok) document = next.value;
    }
    this.shown = document;
    this.listeners.forEach((listener) => listener());
  }

  private async run(): Promise<void> {
    if (this.running) return;
    this.running = true;
    for (let task = this.tasks.shift(); task; task = this.tasks.shift()) {
      if (task.kind === "edit") {
        const together = [task.pending];
        while (this.tasks[0]?.kind === "edit" && together.length < mostTogether) {
          together.push((this.tasks.shift() as { pending: Pending }).pending);
        }
        await this.save(together);
      } else await this.turn(task.kind, task.id);
    }
    this.running = false;
    this.listeners.forEach((listener) => listener());
  }

  private async save(together: Pending[]): Promise<void> {
    for (const own of together) own.change = null;
    const edits = together.filter(({ patch }) => patch.length > 0);
    this.pending = this.pending.filter((own) => own.patch.length > 0);
    if (edits.length === 0) return;
    const outcome = await this.port.send(edits.map(({ label, patch }) => ({ label, patch })));
    if (!outcome.ok) {
      // Whatever builds on it cannot be saved either.
      const dropped = new Set([
        ...edits,
        ...this.tasks.flatMap((t) => (t.kind === "edit" ? [t.pending] : [])),
      ]);
      this.pending = this.pending.filter((own) => !dropped.has(own));
      for (let i = this.tasks.length - 1; i >= 0; i--)
        if (this.tasks[i]!.kind === "edit") this.tasks.splice(i, 1);
      this.show();
      this.port.refused(outcome.refusal);
      return;
    }
    const applied = outcome.value;
    const last = applied.at(-1);
    const sequence = last?.sequence ?? this.sequence;
    const saved = new Map(
      edits.map((own, i) => [
        own,
        // As the server stored it: texts may have been trimmed.
        { ...own, patch: applied.length === edits.length ? applied[i]!.patch : own.patch, sequence },
      ]),
    );
    this.pending = this.pending.map((own) => saved.get(own) ?? own);
    this.settle(this.sequence);
    if (last) this.port.saved(last, applied.length);
  }

  private async turn(direction: "undo" | "redo", id: number | null): Promise<void> {
    const outcome = await this.port.turn(direction, id);
    if (!outcome.ok) return this.port.refused(outcome.refusal);
    this.add(outcome.value);
    this.port.turned(direction, outcome.value);
  }
}
