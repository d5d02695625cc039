// Joins the lists of parts of both programs, and adds what lies in web/static/lib.
import { createHash } from "node:crypto";
import { readFileSync, readdirSync, writeFileSync } from "node:fs";

const read = (name) => JSON.parse(readFileSync(name, "utf8"));
const lib = "web/static/lib/";
const sent = [
  { name: "bootstrap", file: "bootstrap.min.css", licence: "MIT", version: /Bootstrap\s+v([\d.]+)/ },
  { name: "htmx", file: "htmx.min.js", licence: "0BSD", version: /"(4\.\d+\.\d+)"/ },
  { name: "literata", file: "literata.woff2", licence: "OFL-1.1" },
  { name: "source-sans-3", file: "source-sans-3.woff2", licence: "OFL-1.1" },
];
const known = new Set(readdirSync(`${lib}licences`).map((n) => n.replace(".txt", "")));
for (const one of sent) known.delete(one.name);
if (known.size) throw new Error(`these are sent, and not in the list of parts: ${[...known]}`);

const [list, other] = ["cleverniche", "standin"].map((name) => read(`bin/${name}.spdx.json`));
const has = new Set(list.packages.map((p) => `${p.name} ${p.versionInfo}`));
list.packages.push(...other.packages.filter((p) => !has.has(`${p.name} ${p.versionInfo}`)));
for (const one of sent) {
  const data = readFileSync(lib + one.file);
  list.packages.push({
    name: one.name,
    SPDXID: `SPDXRef-Sent-${one.name}`,
    versionInfo: one.version?.exec(data.toString("latin1"))?.[1] ?? "NOASSERTION",
    downloadLocation: "NOASSERTION",
    filesAnalyzed: false,
    licenseConcluded: one.licence,
    licenseDeclared: one.licence,
    copyrightText: "NOASSERTION",
    checksums: [{ algorithm: "SHA256", checksumValue: createHash("sha256").update(data).digest("hex") }],
  });
}
const ids = new Set(list.packages.map((p) => p.SPDXID));
list.name = "Clever Niche";
list.relationships = (list.relationships ?? []).filter((r) =>
  [r.spdxElementId, r.relatedSpdxElement].every((id) => ids.has(id) || id === "SPDXRef-DOCUMENT"),
);
delete list.files;
const text = JSON.stringify(
  { ...list, packages: list.packages.sort((a, b) => (a.name < b.name ? -1 : 1)) },
  null,
  1,
);
writeFileSync("docs/parts.spdx.json", text + "\n");
console.log(`${list.packages.length} parts`);
