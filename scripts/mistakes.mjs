// Makes small deliberate mistakes in a copy of the tree, one at a time, and says which of them the tests notice:
// `make mistakes` all, with numbers those, with --new N those from N on, with --beside by the tests of the same package
// alone. With --changed those in files that differ from the commit before the last one, one of each file in turn, until
// four and a half minutes are over; it says how many were left. A mistake is a file, what stands there, what is put in
// its place, and what that does to people; of a script or a style also which browser tests
// look at it. One that no longer fits its file is told.
import { execFileSync, spawnSync } from "node:child_process";
import { copyFileSync, existsSync, mkdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { mistakes } from "./mistakes-list.mjs";

const git = (...args) => execFileSync("git", args, { encoding: "utf8" });
const top = git("rev-parse", "--show-toplevel").trim();
const args = process.argv.slice(2);
const changed = args.includes("--changed")
  ? new Set(
      git("diff", "--name-only", "HEAD~1")
        .split("\n")
        .concat(git("ls-files", "-o", "--exclude-standard").split("\n")),
    )
  : null;
const from = args.includes("--new") ? Number(args[args.indexOf("--new") + 1]) : 0;
const only = args.includes("--new") ? [] : args.map(Number).filter((n) => n > 0);
const beside = args.includes("--beside");
const wanted = (n, file) => (!only.length || only.includes(n)) && n >= from && (!changed || changed.has(file));

// Always the same folder, so that what was built there once need not be built again.
const copy = join(tmpdir(), "cleverniche-mistakes");
rmSync(copy, { recursive: true, force: true });
process.on("exit", () => rmSync(copy, { recursive: true, force: true }));
for (const file of git("-C", top, "ls-files", "-co", "--exclude-standard").trim().split("\n")) {
  if (!existsSync(join(top, file))) continue;
  mkdirSync(join(copy, dirname(file)), { recursive: true });
  copyFileSync(join(top, file), join(copy, file));
}
if (existsSync(join(top, "e2e/node_modules")))
  symlinkSync(join(top, "e2e/node_modules"), join(copy, "e2e/node_modules"));

const run = (command, list, options = {}) => {
  const done = spawnSync(command, list, { cwd: copy, encoding: "utf8", timeout: 300_000, ...options });
  return { status: done.status, said: `${done.stdout}${done.stderr}` };
};

// The packages whose tests could notice something: the file's own first, then those that depend on it.
const packages = run("go", [
  "list",
  "-f",
  '{{.ImportPath}} {{join .Deps " "}} {{join .XTestImports " "}} {{join .TestImports " "}}',
  "./...",
])
  .said.trim()
  .split("\n")
  .map((line) => line.split(" "));
const slow = /\/(standin|cmd\/calibrate|cmd\/bench)$/;
const uses = (target) => {
  const direct = new Set([target]);
  for (const [name, ...deps] of packages) if (deps.includes(target)) direct.add(name);
  for (const [name, ...deps] of packages)
    if (deps.some((d) => direct.has(d) && d.includes("studytest"))) direct.add(name);
  direct.delete(target);
  return [...direct].filter((name) => !slow.test(name));
};
const env = { ...process.env, WORLDS: "unchanged" };
const goTests = (list) =>
  list.length ? run("go", ["test", "-vet=off", "-timeout=120s", ...list], { env }) : { status: 0, said: "" };
const browser = (list) => {
  const built = run("go", ["build", "-o", "bin/", "./cmd/..."]);
  return built.status
    ? built
    : run("npx", ["playwright", "test", "--reporter=line", ...list], { cwd: join(copy, "e2e") });
};

// A selection takes one mistake of each file in turn, so that every changed file has its turn before time is up.
const turns = mistakes.map(([file], i) => mistakes.slice(0, i).filter(([other]) => other === file).length);
const order = [...mistakes.entries()].filter(([i, [file]]) => wanted(i + 1, file));
if (changed) order.sort(([a], [b]) => turns[a] - turns[b] || a - b);
const until = changed ? Date.now() + 270_000 : Infinity;

let noticed = 0;
let tried = 0;
let left = 0;
for (const [i, [file, was, is, does, ...tests]] of order) {
  if (Date.now() > until) {
    left++;
    continue;
  }
  const path = join(copy, file);
  const text = readFileSync(path, "utf8");
  if (text.split(was).length !== 2) {
    console.log(`${i + 1}. does not fit ${file}: ${was}`);
    process.exitCode = 1;
    continue;
  }
  writeFileSync(
    path,
    text.replace(was, () => is),
  );
  const own = `cleverniche/${dirname(file)}`;
  let result;
  if (!file.endsWith(".go")) result = browser(tests);
  else {
    result = goTests([own]);
    const others = uses(own); // the commands take longest, and notice least
    if (result.status === 0 && !beside) result = goTests(others.filter((name) => !name.includes("/cmd/")));
    if (result.status === 0 && !beside) result = goTests(others.filter((name) => name.includes("/cmd/")));
    if (result.status === 0 && !beside && tests.length) result = browser(tests);
  }
  writeFileSync(path, text);
  const compiles = !/\[build failed\]|\[setup failed\]/.test(result.said);
  tried++;
  if (compiles && result.status !== 0) noticed++;
  else process.exitCode = 1;
  const by = [...result.said.matchAll(/^--- FAIL: (\S+)|^ +\d+\) (.+?) ─/gm)].map((m) => m[1] ?? m[2]).slice(0, 3);
  const how = !compiles ? "DOES NOT COMPILE" : result.status ? `noticed by ${by.join(", ")}` : "NOT NOTICED";
  console.log(`${i + 1}. ${how}: ${does}`);
}
console.log(
  `${noticed} of ${tried} mistakes were noticed${left ? `; ${left} more were left for want of time` : ""}`,
);
