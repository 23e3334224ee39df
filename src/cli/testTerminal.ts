/** A terminal that keeps what is written to it. */
import { Writable } from "node:stream";
import type { Terminal } from "./terminal";

export function keptTerminal(): { terminal: Terminal; written: { stdout: string; stderr: string } } {
  const written = { stdout: "", stderr: "" };
  const output = new Writable({
    write(chunk: Buffer, _encoding, done) {
      written.stdout += chunk.toString();
      done();
    },
  });
  const terminal: Terminal = {
    print: (line) => void (written.stdout += `${line}\n`),
    say: (line) => void (written.stderr += `${line}\n`),
    output,
  };
  return { terminal, written };
}
