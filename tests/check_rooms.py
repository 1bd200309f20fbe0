#!/usr/bin/env python3
"""Holds the arrows between the rooms: each may include only rooms before it in the list, truth never rig, and the
core nothing that reads, writes or prints. Usage: check_rooms.py PROJECT. Exit 1 where an arrow points the wrong way."""
import pathlib
import re
import sys

ROOMS = ["geometry", "level", "body", "rig", "truth", "verify", "motion", "study", "io", "report"]
CORE = ROOMS[:8]
NEVER = {("truth", "rig")}
# Truth works from the distance function: the casts that probes use are closed to it.
CLOSED_HEADERS = {"truth": {"hollow_probe/geometry/cast.hpp", "hollow_probe/level/level_cast.hpp",
                            "hollow_probe/geometry/ray_facet.hpp"}}
NOT_IN_CORE = re.compile(r'<(fstream|iostream|cstdio|stdio\.h|filesystem|fmt/|toml|nlohmann|cairo|CLI)')

top = pathlib.Path(sys.argv[1])
include = re.compile(r'^\s*#\s*include\s*([<"][^>"]+)[>"]')
wrong = 0
seen = 0
for room in ROOMS:
    for folder in (top / "include/hollow_probe" / room, top / "src" / room):
        for path in sorted(p for p in folder.glob("*") if p.is_file()) if folder.is_dir() else []:
            for number, line in enumerate(path.read_text().splitlines(), 1):
                match = include.match(line)
                if not match:
                    continue
                seen += 1
                name = match.group(1)
                parts = name[1:].removeprefix("hollow_probe/").split("/")
                target = parts[0] if parts[0] in ROOMS and len(parts) > 1 else None
                why = None
                if target and ROOMS.index(target) > ROOMS.index(room):
                    why = f"{room} may not look at {target}"
                elif target and (room, target) in NEVER:
                    why = f"{room} may never look at {target}"
                elif name[1:] in CLOSED_HEADERS.get(room, ()):
                    why = f"{room} may not use the casts of probes"
                elif room in CORE and NOT_IN_CORE.match(name):
                    why = f"the core reads, writes and prints nothing, but {room} includes {name[1:]}"
                if why:
                    print(f"{path.relative_to(top)}:{number}: {why}")
                    wrong += 1
print(f"{seen} includes checked, {wrong} wrong")
sys.exit(1 if wrong or seen == 0 else 0)
