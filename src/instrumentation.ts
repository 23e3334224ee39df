/** Runs once when the server starts: brings the database up to date and takes up waiting work. */
export async function register() {
  if (process.env.NEXT_RUNTIME !== "nodejs") return;
  const { database } = await import("./server/database");
  const { resumeQueue } = await import("./server/queue");
  await database();
  await resumeQueue();
}
