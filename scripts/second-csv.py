# Writes market/files/testdata/csv/tables.json: random tables as Python's csv writes them, and the cells that two
# readers of others find in them, Python's csv and Papa Parse (npm), which have to agree. Run it where papaparse is
# installed beside it: npm i papaparse@5.7.1
import csv, io, json, os, random, subprocess
random.seed(4180)
bits = ["moon", "map", " for ", "walls", '"', '""', ",", ";", "\t", "|", "\n", "\r\n", "é", "星", "😀", "1,900",
        "1.900", "=1+1", " ", "'", "\\", "\u00a0", "-", "a b", "x"]
out = []
for k in range(80):
    comma = ",;\t|"[k % 4]
    end = "\r\n" if k % 3 else "\n"
    quoting = [csv.QUOTE_MINIMAL, csv.QUOTE_ALL, csv.QUOTE_NONNUMERIC][k % 3]
    width = random.randint(2, 6)
    rows = []
    for _ in range(random.randint(2, 12)):
        row = ["".join(random.choice(bits) for _ in range(random.randint(0, 4))) for _ in range(width)]
        row[0] = "p" + row[0].strip("\r\n")  # no row is blank
        rows.append(row)
    f = io.StringIO(newline="")
    csv.writer(f, delimiter=comma, lineterminator=end, quoting=quoting).writerows(rows)
    text = f.getvalue()
    if k % 5 == 0:
        text = text[: -len(end)]  # the last line may end without a break
    python = list(csv.reader(io.StringIO(text, newline=""), delimiter=comma))
    out.append({"comma": comma, "text": text, "cells": python})
js = """
const papa = require("papaparse");
const list = JSON.parse(require("fs").readFileSync(0, "utf8"));
const read = (c) => papa.parse(c.text, { delimiter: c.comma, skipEmptyLines: true }).data;
console.log(JSON.stringify(list.map(read)));
"""
done = subprocess.run(["node", "-e", js], input=json.dumps(out), capture_output=True, text=True, check=True)
papa = json.loads(done.stdout)
differ = [i for i, (c, p) in enumerate(zip(out, papa)) if c["cells"] != p]
print("they differ on", differ)
out = [c for i, c in enumerate(out) if i not in differ]
says = "Python 3 csv and Papa Parse 5.7.1 agree on each"
json.dump({"readers": says, "tables": out}, open(os.path.join(os.path.dirname(__file__), "../market/files/testdata/csv/tables.json"), "w"), ensure_ascii=True, indent=0)
print(len(out))
