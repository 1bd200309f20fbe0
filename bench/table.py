"""Prints the figures of a benchmark run beside the targets. Usage: table.py RESULTS.json …"""
import json
import sys

runs = {}
for run in (run for name in sys.argv[1:] for run in json.load(open(name))["benchmarks"]):
    if run.get("run_type") == "aggregate" and run["aggregate_name"] != "median":
        continue
    name = run["name"].removesuffix("_median").removesuffix("/real_time")
    runs[name] = run

def seconds(name):
    unit = {"ns": 1e-9, "us": 1e-6, "ms": 1e-3}[runs[name]["time_unit"]]
    return runs[name]["real_time"] * unit

def have(*names):
    return all(name in runs for name in names)

rows = []
def row(what, figure, target, met):
    rows.append((what, figure, target, {True: "met", False: "not met", None: ""}[met]))

for scene in ("terrain", "rubble", "interior"):
    ray, batch = f"ray/long/{scene}/1M", f"batch/ray/long/{scene}/1M"
    if have(ray):
        rate = 1e-6 / seconds(ray)
        row(f"long rays, {scene}, one at a time", f"{rate:.2f} M/s", ">= 1.0 M/s", rate >= 1.0)
    if have(batch):
        rate = 1e-6 * runs[batch]["items_per_second"]
        row(f"long rays, {scene}, in batches", f"{rate:.2f} M/s", ">= 1.0 M/s", rate >= 1.0)
    if have(ray):
        size = runs[ray]["index_bytes_a_piece"]
        row(f"index, {scene}", f"{size:.1f} bytes a triangle", "<= 64", size <= 64)
together, apart = "rig/12_rays/together/terrain/1M", "rig/12_rays/one_by_one/terrain/1M"
if have(together, apart):
    row("rig of 12 short rays, one traversal", f"{1e6 * seconds(together):.2f} us", "<= 1.2 us", seconds(together) <= 1.2e-6)
    row("... against one by one", f"{seconds(apart) / seconds(together):.2f} x faster", "", None)
for kind, most in (("ball", 2.5), ("capsule", 4), ("box", 5), ("hull16", 8)):
    for reach in ("long", "short"):
        for scene in ("terrain", "rubble", "interior"):
            cast, ray = f"{kind}/{reach}/{scene}/1M", f"ray/{reach}/{scene}/1M"
            if have(cast, ray):
                ratio = seconds(cast) / seconds(ray)
                row(f"{kind} cast / ray, {reach}, {scene}", f"{ratio:.2f}", f"<= {most}", ratio <= most)
for scene in ("terrain", "rubble", "interior"):
    over, ray = f"overlap/{scene}/1M", f"ray/long/{scene}/1M"
    if have(over, ray):
        ratio = seconds(over) / seconds(ray)
        row(f"overlap / ray, {scene}", f"{ratio:.2f}", "<= 1.5", ratio <= 1.5)
for scene in ("terrain", "rubble", "interior"):
    one, two = f"build/{scene}/1M/threads:1", f"build/{scene}/1M/threads:2"
    if have(one, two):
        rate = 1e-6 * runs[one]["items_per_second"]
        row(f"build, {scene}, one thread", f"{rate:.2f} M triangles/s", ">= 1.5", rate >= 1.5)
        row(f"build, {scene}, two threads", f"{seconds(one) / seconds(two):.2f} x", ">= 1.8 x", seconds(one) / seconds(two) >= 1.8)
small, large = "ray/long/terrain/10k", "ray/long/terrain/10M"
if have(small, large):
    ratio = seconds(large) / seconds(small)
    row("long rays, 10 M / 10 k triangles", f"{ratio:.2f}", "<= 4", ratio <= 4)
for name in ("ray/long/cave_2d/1M", "ray/short/cave_2d/1M"):
    if have(name):
        row(f"2D, {name}", f"{1e-6 / seconds(name):.2f} M/s", "", None)
if have("refit/100_solids"):
    row("re-fit of 100 moving solids", f"{1e6 * seconds('refit/100_solids'):.1f} us", "", None)

for place, what in (("terrain", "terrain"), ("cave_2d", "2D, cave")):
    one, two = f"survey/judge/{place}/1M/threads:1", f"survey/judge/{place}/1M/threads:2"
    if have(one, two):
        rate = 1e-3 * runs[one]["items_per_second"]
        row(f"survey, 8 probes and 6 truths, {what}", f"{rate:.1f} k poses/s", ">= 50 k", rate >= 50)
        row("... two threads", f"{seconds(one) / seconds(two):.2f} x", ">= 1.9 x", seconds(one) / seconds(two) >= 1.9)

widths = [max(len(r[i]) for r in rows) for i in range(4)]
for r in rows:
    print("  ".join(cell.ljust(width) for cell, width in zip(r, widths)).rstrip())
