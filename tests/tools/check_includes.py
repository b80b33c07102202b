#!/usr/bin/env python3
"""Modules may include only those before them in the list of docs/architecture.md; core knows no Qt."""
import pathlib
import re
import sys

ORDER = ["base", "image", "mesh", "solid", "io", "field", "armature", "sculpt", "skin", "growth", "outgrowth", "colour", "pose", "portrait",
         "proof", "bake", "document", "store", "export", "command"]
root = pathlib.Path(__file__).resolve().parents[2] / "src" / "core"
wrong = []
for path in sorted(root.rglob("*.[ch]*")):
    module = path.relative_to(root).parts[0]
    for number, line in enumerate(path.read_text().split("\n"), 1):
        m = re.match(r'#include "(\w+)/', line)
        if m and m[1] in ORDER and ORDER.index(m[1]) > ORDER.index(module):
            wrong.append(f"{path.relative_to(root)}:{number}: {module} may not include {m[1]}")
        if m and "/detail/" in line and m[1] != module:
            wrong.append(f"{path.relative_to(root)}:{number}: the inside of {m[1]} is its own")
        if re.match(r"#include <Q[A-Z]", line):
            wrong.append(f"{path.relative_to(root)}:{number}: no Qt in core")
print("\n".join(wrong) or "includes: in order")
sys.exit(1 if wrong else 0)
