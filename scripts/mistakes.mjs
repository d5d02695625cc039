// Makes small deliberate mistakes in a copy of the tree, one at a time, and says which of
// them the tests notice: `make mistakes`. A mistake is a file, what stands there, what is
// put in its place, and what that does to people. One that no longer fits its file is told.
import { execFileSync, spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { mistakes } from "./mistakes-list.mjs";

const top = execFileSync("git", ["rev-parse", "--show-toplevel"]).toString().trim();
const copy = mkdtempSync(join(tmpdir(), "mistakes-"));
execFileSync("bash", ["-c", `cd '${top}' && git ls-files -z | xargs -0 cp --parents -t '${copy}'`]);

const tests = [
  "test",
  "-count=1",
  "-timeout=90s",
  "./web/...",
  "./study",
  "./store",
  "./board",
  "./market",
  "./core/sieve",
  "./core/topic",
  "./core/plan",
];
const passes = () => spawnSync("go", tests, { cwd: copy, encoding: "utf8", timeout: 180_000 });
if (passes().status !== 0) {
  console.log("the tests fail without any mistake");
  process.exit(1);
}

const only = process.argv.slice(2).map(Number);
let noticed = 0;
let tried = 0;
for (const [n, [file, was, is, does]] of mistakes.entries()) {
  if (only.length && !only.includes(n + 1)) continue;
  const path = join(copy, file);
  const text = readFileSync(path, "utf8");
  if (text.split(was).length !== 2) {
    console.log(`${n + 1}. does not fit ${file}: ${was}`);
    process.exitCode = 1;
    continue;
  }
  writeFileSync(
    path,
    text.replace(was, () => is),
  );
  const result = passes();
  writeFileSync(path, text);
  const said = `${result.stdout}${result.stderr}`;
  const compiles = !/\[build failed\]|\[setup failed\]/.test(said);
  tried++;
  if (compiles && result.status !== 0) noticed++;
  const by = [...said.matchAll(/^--- FAIL: (\S+)/gm)]
    .map((m) => m[1])
    .slice(0, 3)
    .join(", ");
  console.log(
    `${n + 1}. ${!compiles ? "DOES NOT COMPILE" : result.status ? `noticed by ${by}` : "NOT NOTICED"}: ${does}`,
  );
}
console.log(`${noticed} of ${tried} mistakes were noticed`);
rmSync(copy, { recursive: true });
