/** The entry of a decoding process: one task after the other, watched all the while. */
import type { Order, Report } from "./protocol";
import { tasks, type TaskContext } from "./tasks";
import { startWatchdog } from "./watchdog";

/** Progress is told this often at most. */
const tellEveryMs = 100;

const watchdog = startWatchdog();
const send = (report: Report) => process.send?.(report);

async function carryOut({ id, name, task }: Order): Promise<void> {
  let told = 0;
  const context: TaskContext = {
    watch: watchdog.watch,
    beat: watchdog.beat,
    tell(progress) {
      watchdog.beat();
      const now = Date.now();
      if (now - told < tellEveryMs) return;
      told = now;
      send({ id, kind: "progress", progress });
    },
  };
  try {
    const result = await (tasks[name] as (task: unknown, context: TaskContext) => Promise<unknown>)(
      task,
      context,
    );
    send({ id, kind: "result", result });
  } catch (error) {
    send({
      id,
      kind: "error",
      message: error instanceof Error ? (error.stack ?? error.message) : String(error),
    });
  } finally {
    watchdog.rest();
  }
}

process.on("message", (order: Order) => void carryOut(order));
// Without the server there is nobody to work for.
process.on("disconnect", () => process.exit(0));
