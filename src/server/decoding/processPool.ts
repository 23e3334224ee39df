/**
 * Decoding processes: started when there is work, kept for a while, and replaced when one ends itself
 * or is ended. Whatever a file does to a decoder, the server goes on.
 */
import { fork, type ChildProcess } from "node:child_process";
import type { Socket } from "node:net";
import { setPriority } from "node:os";
import { refuse, type Outcome } from "@/core/outcome";
import { decodingProcessFile } from "../storage/paths";
import {
  endings,
  type DecodingTask,
  type DecodingTasks,
  type Order,
  type Progress,
  type Report,
} from "./protocol";

interface Waiting {
  order: Order;
  onProgress: (progress: Progress) => void;
  resolve: (result: unknown) => void;
  reject: (error: unknown) => void;
  signal: AbortSignal | undefined;
}

interface Member {
  child: ChildProcess;
  current: Waiting | null;
  /** Whether it has ended a task before, and whether it has said anything of the present one. */
  isWarm: boolean;
  hasBegun: boolean;
  /** What the process has written to standard error since it began its task. */
  errors: string;
  idle: NodeJS.Timeout | null;
}

/** What of a process can keep this one from ending. */
const handlesOf = ({ child }: Member) => [child, child.channel, child.stderr as Socket | null];

const idleMs = 60_000;
/** Pages come first. */
const lowPriority = 10;

/** Thrown where a task is cancelled. */
export class Cancelled extends Error {}

export class ProcessPool {
  private readonly members = new Set<Member>();
  private readonly queue: Waiting[] = [];
  private nextId = 1;

  constructor(private readonly size: number) {}

  /** Of the processes that it has at the moment. */
  get pids(): number[] {
    return [...this.members].flatMap(({ child }) => child.pid ?? []);
  }

  /**
   * Runs a task. Where the process ends on the way, the file is to blame and the result is a refusal.
   *
   * @throws Cancelled when the signal fires; an Error where the task has a bug.
   */
  run<Name extends DecodingTask>(
    name: Name,
    task: DecodingTasks[Name]["task"],
    {
      onProgress = () => {},
      signal,
    }: { onProgress?: (progress: Progress) => void; signal?: AbortSignal } = {},
  ): Promise<DecodingTasks[Name]["result"]> {
    return new Promise((resolve, reject) => {
      if (signal?.aborted) return reject(new Cancelled());
      const waiting: Waiting = {
        order: { id: this.nextId++, name, task },
        onProgress,
        resolve: resolve as (result: unknown) => void,
        reject,
        signal,
      };
      signal?.addEventListener("abort", () => this.cancel(waiting), { once: true });
      this.queue.push(waiting);
      this.fill();
    });
  }

  /** Cancels what runs and what waits. Idle processes stay: they do not keep this one from ending, and end with it. */
  cancelAll(): void {
    for (const waiting of this.queue.splice(0)) waiting.reject(new Cancelled());
    for (const member of this.members) if (member.current) this.cancel(member.current);
  }

  private cancel(waiting: Waiting): void {
    const place = this.queue.indexOf(waiting);
    if (place >= 0) this.queue.splice(place, 1);
    for (const member of this.members) {
      if (member.current !== waiting) continue;
      member.current = null;
      this.retire(member);
    }
    waiting.reject(new Cancelled());
    this.fill();
  }

  private retire(member: Member): void {
    this.members.delete(member);
    member.child.kill("SIGKILL");
  }

  private fill(): void {
    while (this.queue.length > 0) {
      const free = [...this.members].find(({ current }) => current === null);
      if (!free && this.members.size >= this.size) return;
      this.give(free ?? this.start(), this.queue.shift()!);
    }
  }

  private give(member: Member, waiting: Waiting): void {
    if (member.idle) clearTimeout(member.idle);
    member.idle = null;
    member.current = waiting;
    member.errors = "";
    member.hasBegun = false;
    for (const handle of handlesOf(member)) handle?.ref();
    member.child.send(waiting.order, (error) => {
      // Its end is told by "exit"; nothing else is to be done here.
      if (error) member.child.kill("SIGKILL");
    });
  }

  private start(): Member {
    const child = fork(decodingProcessFile(), [], {
      serialization: "advanced",
      stdio: ["ignore", "ignore", "pipe", "ipc"],
      // Compiling and collecting beside its own thread is no quicker where cores are busy, and costs a third more.
      execArgv: ["--max-old-space-size=1024", "--single-threaded"],
    });
    const member: Member = {
      child,
      current: null,
      isWarm: false,
      hasBegun: false,
      errors: "",
      idle: null,
    };
    this.members.add(member);
    child.stderr!.on("data", (text: Buffer) => {
      member.errors = (member.errors + text.toString()).slice(-4000);
    });
    child.on("message", (report: Report) => this.take(member, report));
    child.on("error", (error) => this.ended(member, error.message));
    child.on("exit", () => this.ended(member, member.errors));
    try {
      if (child.pid) setPriority(child.pid, lowPriority);
    } catch {
      // Not allowed everywhere; pages are then only as quick as the machine lets them be.
    }
    return member;
  }

  private take(member: Member, report: Report): void {
    const { current } = member;
    if (!current || report.id !== current.order.id) return;
    member.hasBegun = true;
    if (report.kind === "progress") return current.onProgress(report.progress);
    member.current = null;
    member.isWarm = true;
    if (report.kind === "result") current.resolve(report.result);
    else current.reject(new Error(report.message));
    member.idle = setTimeout(() => this.retire(member), idleMs);
    member.idle.unref();
    for (const handle of handlesOf(member)) handle?.unref();
    this.fill();
  }

  private ended(member: Member, why: string): void {
    this.members.delete(member);
    if (member.idle) clearTimeout(member.idle);
    const { current } = member;
    member.current = null;
    // It was ended from outside while it was idle, and nobody had noticed: the file is not to blame.
    if (current && member.isWarm && !member.hasBegun && !why) this.queue.unshift(current);
    else current?.resolve(refusalFor(why) satisfies Outcome<never>);
    this.fill();
  }
}

/** Why a file whose process ended is not taken. */
function refusalFor(why: string) {
  if (why.includes(endings.memory)) {
    return refuse(
      "damaged",
      "This file can't be read: decoding it takes more memory than any real recording does.",
      "Export it once more, as WAV or FLAC.",
    );
  }
  if (!why.includes(endings.stalled) && why) console.error("a decoding process ended:", why);
  return refuse(
    "damaged",
    "This file can't be read: its decoder got stuck on it.",
    "Export it once more, as WAV or FLAC.",
  );
}
