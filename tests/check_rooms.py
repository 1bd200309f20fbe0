#!/usr/bin/env python3
"""Holds the arrows between the rooms, over what each file includes itself and what that includes in turn.

    check_rooms.py PROJECT [LIBRARY]    exit 1 where an arrow points the wrong way
    check_rooms.py PROJECT --self-test  plants breaches in a copy, and exits 1 if one is not noticed

Each room may include what its entry in ALLOWED names, and nothing else: rooms, and libraries by the start of their
headers' names. With LIBRARY, the static library of the core, its symbols are held against what a core may call, too.
"""
import pathlib
import re
import shutil
import subprocess
import sys
import tempfile

ROOMS = ["geometry", "level", "body", "rig", "truth", "verify", "motion", "study", "io", "report"]
CORE = ROOMS[:8]
# Rooms further up the list are open, but for these.
CLOSED = {"truth": {"rig"}}
# Truth works from the distance function: the casts that probes use are closed to it, however they are reached.
CLOSED_HEADERS = {"truth": {"hollow_probe/geometry/cast.hpp", "hollow_probe/level/level_cast.hpp",
                            "hollow_probe/geometry/ray_facet.hpp"}}
STANDARD = set("""algorithm array atomic bit bitset charconv chrono cmath compare concepts cstddef cstdint cstdlib cstring
condition_variable deque functional initializer_list iterator limits list map memory mutex new numbers numeric optional queue random ratio set
span stdexcept string string_view system_error thread tuple type_traits unordered_map unordered_set utility variant vector
exception ranges cctype immintrin.h cassert""".split())
# Standard headers that read, write or print; and what of the system a room may use besides.
IN_OUT = set("cstdio filesystem fstream iomanip iostream sstream istream ostream".split())
LIBRARIES = {
    "geometry": ["hwy/", "tbb/", "sys/mman.h", "unistd.h"], "level": [], "body": [], "rig": [],
    "truth": [], "verify": ["tbb/"], "motion": ["tbb/"], "study": ["tbb/", "nlopt", "pagmo/"],
    "io": ["fmt/", "toml++/", "nlohmann/", "png.h", "tiny_gltf.h", "zlib.h", "unistd.h", "fcntl.h", "sys/", "cerrno", "csetjmp"],
    "report": ["fmt/", "nlohmann/", "pugixml.hpp", "cairo", "png.h", "web_"],
}
# What a core that neither reads, writes nor prints has no need to call.
NO_CALL = re.compile(r"\b(fopen|fopen64|fwrite|fread|printf|fprintf|puts|fputs|putchar|open64|system|getenv|"
                     r"_ZSt4cout|_ZSt4cerr|_ZSt3cin|_ZNSt14basic_ofstream\w*|_ZNSt14basic_ifstream\w*|_ZNSt10filesystem\w*)\b")
INCLUDE = re.compile(r'^\s*#\s*include\s*([<"])([^>"]+)[>"]')


class Project:
    def __init__(self, top):
        self.top = top
        self.faults = []
        self.seen = 0
        self.closures = {}

    def includes(self, path):
        for number, line in enumerate(path.read_text().splitlines(), 1):
            if match := INCLUDE.match(line):
                yield number, match.group(2)

    def file_of(self, name):
        """The project's own header of that name, or None."""
        for base in ("include", "src"):
            path = self.top / base / name
            if path.is_file():
                return path
        return None

    @staticmethod
    def room_of(name):
        parts = name.removeprefix("hollow_probe/").split("/")
        return parts[0] if parts[0] in ROOMS and len(parts) > 1 else None

    def closure(self, path):
        """Every own header that a file includes, itself or by others, with one way there."""
        if path in self.closures:
            return self.closures[path]
        found = self.closures[path] = {}
        for _, name in self.includes(path):
            header = self.file_of(name)
            if header is None:
                continue
            found.setdefault(name, [name])
            for further, way in self.closure(header).items():
                found.setdefault(further, [name, *way])
        return found

    def fault(self, path, number, why):
        self.faults.append(f"{path.relative_to(self.top)}:{number}: {why}")

    def check_include(self, room, path, number, name):
        target = self.room_of(name)
        if target:
            if ROOMS.index(target) > ROOMS.index(room) or target in CLOSED.get(room, ()):
                self.fault(path, number, f"{room} may not look at {target}")
            elif name in CLOSED_HEADERS.get(room, ()):
                self.fault(path, number, f"{room} may not use the casts of probes")
            elif self.file_of(name) is None:
                self.fault(path, number, f"there is no header {name}")
            return
        if name in STANDARD or (room not in CORE and name in IN_OUT):
            return
        if any(name.startswith(start) for start in LIBRARIES[room]) or self.file_of(name) is not None:
            return
        self.fault(path, number, f"{room} may not include {name}: it is not on its list")

    def check(self):
        for room in ROOMS:
            for folder in (self.top / "include/hollow_probe" / room, self.top / "src" / room):
                for path in sorted(p for p in folder.rglob("*") if p.suffix in (".cpp", ".hpp")):
                    for number, name in self.includes(path):
                        self.seen += 1
                        self.check_include(room, path, number, name)
                    for name, way in self.closure(path).items():
                        if len(way) < 2:
                            continue
                        target = self.room_of(name)
                        if target and (target in CLOSED.get(room, ()) or ROOMS.index(target) > ROOMS.index(room)):
                            self.fault(path, 1, f"{room} looks at {target} by way of {' > '.join(way)}")
                        elif name in CLOSED_HEADERS.get(room, ()) and path.suffix == ".cpp":
                            self.fault(path, 1, f"{room} reaches the casts of probes by way of {' > '.join(way)}")
        if self.seen == 0:
            self.faults.append("nothing was looked at")
        return self.faults


def check_symbols(library):
    listed = subprocess.run(["nm", "--undefined-only", library], capture_output=True, text=True, check=True).stdout
    return sorted({f"{library}: the core calls {m.group(1)}" for m in NO_CALL.finditer(listed)})


BREACHES = [
    ("src/truth/wall.cpp", '#include "hollow_probe/rig/rig.hpp"', "truth may not look at rig"),
    ("src/level/level.cpp", '#include "hollow_probe/truth/wall.hpp"', "level may not look at truth"),
    ("include/hollow_probe/truth/known.hpp", '#include "hollow_probe/geometry/cast.hpp"', "casts of probes"),
    ("include/hollow_probe/body/body.hpp", '#include "hollow_probe/rig/spread.hpp"', "truth looks at rig by way of"),
    ("src/verify/findings.cpp", "#include <fstream>", "not on its list"),
    ("src/rig/rig.cpp", "#include <boost/any.hpp>", "not on its list"),
    ("src/geometry/cast.cpp", "#include <fmt/format.h>", "not on its list"),
    ("src/io/png_file.cpp", '#include "hollow_probe/report/figure.hpp"', "io may not look at report"),
]


def self_test(top):
    missed = 0
    with tempfile.TemporaryDirectory() as scratch:
        copy = pathlib.Path(scratch)
        for base in ("include", "src"):
            shutil.copytree(top / base, copy / base)
        for name, line, says in BREACHES:
            path = copy / name
            kept = path.read_text()
            path.write_text(line + "\n" + kept)
            faults = Project(copy).check()
            path.write_text(kept)
            if not any(says in fault for fault in faults):
                print(f"not noticed: {line} in {name}")
                missed += 1
    print(f"{len(BREACHES) - missed} of {len(BREACHES)} planted breaches noticed")
    return missed


def main():
    top = pathlib.Path(sys.argv[1])
    if "--self-test" in sys.argv:
        return 1 if self_test(top) else 0
    project = Project(top)
    faults = project.check()
    if len(sys.argv) > 2:
        faults += check_symbols(sys.argv[2])
    print("\n".join(faults[:40]))
    print(f"{project.seen} includes checked, {len(faults)} wrong")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
