/** Assembles the text of `src/core/dsp/vector/vector.wat` into the code that is run: `node scripts/assemble.mjs`. */
import { readFileSync, writeFileSync } from "node:fs";
import wabt from "wabt";

const folder = "src/core/dsp/vector";

/** The WebAssembly code of the text, as base64. */
export async function assembled() {
  const file = `${folder}/vector.wat`;
  const module = (await wabt()).parseWat(file, readFileSync(file, "utf8"));
  const code = Buffer.from(module.toBinary({}).buffer).toString("base64");
  module.destroy();
  return code;
}

if (import.meta.url === `file://${process.argv[1]}`)
  writeFileSync(
    `${folder}/vectorCode.ts`,
    `/** WebAssembly code of \`vector.wat\`, as base64; made by \`node scripts/assemble.mjs\`. */\nexport const vectorCode =\n  "${await assembled()}";\n`,
  );
