// How much compressed script the first screen fetches: what index.html names, and what that imports at once.
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { gzipSync } from "node:zlib";

const dist = fileURLToPath(new URL("../web/dist/", import.meta.url));
const MOST_KB = 350;
const page = readFileSync(`${dist}index.html`, "utf8");
const waiting = [...page.matchAll(/(?:src|href)="\/(assets\/[^"]+\.js)"/g)].map((match) => match[1]);
const weighed = new Map();
while (waiting.length > 0) {
  const file = waiting.pop();
  if (weighed.has(file)) continue;
  const text = readFileSync(dist + file);
  weighed.set(file, gzipSync(text).length);
  // Static imports only: what is imported on demand comes with a later screen.
  for (const match of text.toString().matchAll(/(?:^|[;}\s])(?:import|export)\s*(?:[^"'()]*?from)?\s*["']\.\/([^"']+\.js)["']/g))
    waiting.push(`assets/${match[1]}`);
}
const total = [...weighed.values()].reduce((sum, size) => sum + size, 0) / 1000;
for (const [file, size] of weighed) console.log(`${(size / 1000).toFixed(1).padStart(8)} kB  ${file}`);
console.log(`${total.toFixed(1).padStart(8)} kB  in all, at most ${MOST_KB}`);
if (weighed.size === 0 || total > MOST_KB) process.exit(1);
