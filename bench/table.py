"""Prints the figures of a benchmark run beside the targets of the design. Usage: table.py RESULTS.json …"""
import json
import sys

SCENES = ("terrain", "rubble", "interior")
# A cast of each shape takes at most so many times as long as a ray.
CASTS = {"ball": 2, "capsule": 3, "box": 3, "hull16": 5}


def read(files):
    """The runs by name; of repeated ones the median."""
    runs = {}
    for name in files:
        with open(name, encoding="utf-8") as file:
            for run in json.load(file)["benchmarks"]:
                if run.get("run_type") == "aggregate" and run["aggregate_name"] != "median":
                    continue
                runs[run["name"].removesuffix("_median").removesuffix("/real_time").removesuffix("/manual_time")] = run
    return runs


class Table:
    """Rows of what was measured; one whose benchmarks were not run is left out."""

    def __init__(self, runs):
        self.runs = runs
        self.rows = []

    def seconds(self, name):
        unit = {"ns": 1e-9, "us": 1e-6, "ms": 1e-3, "s": 1.0}[self.runs[name]["time_unit"]]
        return self.runs[name]["real_time"] * unit

    def rate(self, name):
        return self.runs[name]["items_per_second"]

    def add(self, what, names, figure, unit, most=None, least=None, scale=1.0):
        if not all(name in self.runs for name in names):
            return
        value = scale * figure(*names)
        met, target = "", ""
        if most is not None:
            met, target = value <= most, f"<= {most}"
        if least is not None:
            met, target = value >= least, f">= {least}"
        told = {True: "met", False: "not met"}.get(met, "")
        self.rows.append((what, f"{value:.3g} {unit}".strip(), target, told))

    def ratio(self, over, under):
        return self.seconds(over) / self.seconds(under)

    def print(self):
        widths = [max((len(row[i]) for row in self.rows), default=0) for i in range(4)]
        for row in self.rows:
            print("  ".join(cell.ljust(width) for cell, width in zip(row, widths)).rstrip())


def geometry(table):
    for scene in SCENES:
        ray, batch = f"ray/long/{scene}/1M", f"batch/ray/long/{scene}/1M"
        table.add(f"long rays, {scene}, one by one", [ray], table.seconds, "us", most=0.95, scale=1e6)
        table.add(f"long rays, {scene}, in batches", [batch], lambda name: 1 / table.rate(name), "us", most=0.8, scale=1e6)
        table.add(f"short rays, {scene}, at random", [f"ray/short/{scene}/1M"], table.seconds, "us", most=0.65, scale=1e6)
        table.add(f"index, {scene}", [ray], lambda name: table.runs[name]["index_bytes_a_piece"], "bytes a triangle", most=64)
    together, apart = "rig/12_rays/together/terrain/1M", "rig/12_rays/one_by_one/terrain/1M"
    kept = "rig/12_rays/kept/terrain/1M"
    table.add("short rays of a walking body, one by one", [apart], table.seconds, "us each", most=0.18, scale=1e6 / 12)
    table.add("twelve rays of a walking body", [together], table.seconds, "us", most=0.85, scale=1e6)
    table.add("... against one by one", [apart, together], table.ratio, "x as fast")
    table.add("... through what is kept", [kept], table.seconds, "us", most=0.85, scale=1e6)
    for kind, most in CASTS.items():
        for reach in ("long", "short"):
            for scene in SCENES:
                names = [f"{kind}/{reach}/{scene}/1M", f"ray/{reach}/{scene}/1M"]
                table.add(f"{kind} cast / ray, {reach}, {scene}", names, table.ratio, "", most=most)
    for scene in SCENES:
        names = [f"overlap/{scene}/1M", f"ray/long/{scene}/1M"]
        table.add(f"overlap / ray, {scene}", names, table.ratio, "", most=0.5)
    for scene in SCENES:
        one, two = f"build/{scene}/1M/threads:1", f"build/{scene}/1M/threads:2"
        table.add(f"build, {scene}, one thread", [one], table.rate, "M triangles/s", least=1.5, scale=1e-6)
        table.add(f"build, {scene}, two threads", [one, two], table.ratio, "x as fast", least=1.8)
    table.add("long rays, 10 M / 10 k triangles", ["ray/long/terrain/10M", "ray/long/terrain/10k"], table.ratio, "", most=4)
    for reach in ("long", "short"):
        table.add(f"{reach} rays, 2D cave", [f"ray/{reach}/cave_2d/1M"], table.seconds, "us", scale=1e6)
    table.add("re-fit of 100 moving solids", ["refit/100_solids"], table.seconds, "us", scale=1e6)


def surveys_and_drills(table):
    for place, what, least in (("terrain", "terrain", 150), ("cave_2d", "2D cave", 400)):
        one, two = (f"survey/judge/{place}/1M/threads:{threads}" for threads in (1, 2))
        explained, again, in_place = (
            f"survey/{kind}/{place}/1M/threads:1" for kind in ("explain", "again", "in_place")
        )
        table.add(f"survey, 8 probes and 6 truths, {what}", [one], table.rate, "k poses/s", least=least, scale=1e-3)
        table.add("... two threads", [one, two], table.ratio, "x as fast", least=1.9)
        table.add("... the same poses again, one probe changed", [one, in_place], table.ratio, "x as fast", least=8)
        table.add("... again, where columns move, too", [one, again], table.ratio, "x as fast")
        table.add("... with causes and fixes, over judging", [explained, one], table.ratio, "", most=1.5)
        table.add("... one ray: first round told", [f"survey/first_round/{place}/1M"], table.seconds, "s", most=1)
    table.add("survey of the 3D demo, two threads", ["survey/demo_3d"], table.seconds, "s", most=2)
    table.add("drill, all truths recorded, 2D demo", ["drill/culvert_2d"], table.rate, "k ticks/s", least=400, scale=1e-3)
    table.add("drill, all truths recorded, terrain", ["drill/terrain/1M"], table.rate, "k ticks/s", least=120, scale=1e-3)
    one, two = (f"hunt/culvert_2d/threads:{threads}" for threads in (1, 2))
    table.add("hunt, 2D demo", [one], table.rate, "k ticks/s", scale=1e-3)
    table.add("... two threads", [two, one], lambda a, b: table.rate(a) / table.rate(b), "x as fast", least=1.9)


def main():
    table = Table(read(sys.argv[1:]))
    geometry(table)
    surveys_and_drills(table)
    table.print()


main()
