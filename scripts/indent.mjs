// Indents templates by their elements and blocks, two spaces a level. Only the white space that lines begin with is
// changed, which says nothing in HTML (and is left out as templates are read, web/frame/templates.go).
// Usage: node scripts/indent.mjs [--write] FILE...; without --write it names the files that are not indented.
import { readFileSync, writeFileSync } from "node:fs";

const alone = /^(area|base|br|col|embed|hr|img|input|link|meta|source|track|wbr)$/;
// An action, a comment, a closing tag, the beginning of a tag, or the end of one.
const token = /\{\{-?\s*(\w*)[^}]*\}\}|<!--.*?-->|<\/([\w-]+)>|<([a-zA-Z][\w-]*)|(\/?>)/g;

function indent(text) {
  let depth = 0;
  let tag = null; // that is open: its attributes go on
  let action = false; // one that goes on
  return text
    .split("\n")
    .map((raw) => {
      const line = raw.trim();
      if (!line) return "";
      let lead = 0; // levels that the line itself closes before anything else
      let bare = true; // nothing but closing so far
      let seen = 0;
      const inside = tag !== null || action;
      action = line.lastIndexOf("{{") > line.lastIndexOf("}}") || (action && !line.includes("}}"));
      const before = depth;
      for (const m of line.matchAll(token)) {
        const [all, word, closes, opens, end] = m;
        if (line.slice(seen, m.index).trim()) bare = false;
        seen = m.index + all.length;
        if (word !== undefined) {
          if (/^(if|range|with|block|define)$/.test(word)) depth++;
          else if (word === "end") depth--;
          if (bare && /^(end|else)$/.test(word))
            lead = Math.max(lead, before - (word === "end" ? depth : depth - 1));
          else bare = false;
        } else if (closes) {
          depth--;
          if (bare) lead = Math.max(lead, before - depth);
        } else if (opens) {
          bare = false;
          tag = opens;
        } else if (end && tag) {
          if (end === ">" && !alone.test(tag)) depth++;
          tag = null;
          bare = false;
        }
      }
      const level = Math.max(0, before - lead + (inside ? 2 : 0));
      return "  ".repeat(level) + line;
    })
    .join("\n");
}

const [write, files] = [process.argv.includes("--write"), process.argv.slice(2).filter((a) => a !== "--write")];
let wrong = 0;
for (const file of files) {
  const was = readFileSync(file, "utf8");
  const is = indent(was);
  if (is === was) continue;
  if (write) writeFileSync(file, is);
  else console.error(`${file}: run node scripts/indent.mjs --write ${file}`);
  wrong++;
}
process.exitCode = wrong && !write ? 1 : 0;
