#!/usr/bin/env python3
"""How the cost of surveys and of loading grows: seconds of one thread over sizes, and the power of the size that fits them.

    growth.py TOOL [MOST]     MOST: the largest number of solids, pieces and parts tried, 100000 unless said otherwise
"""
import math
import os
import random
import resource
import subprocess
import sys
import tempfile

TOOL = os.path.abspath(sys.argv[1])
MOST = int(sys.argv[2]) if len(sys.argv) > 2 else 100_000


def seconds_of(folder, *arguments):
    """Of the processor, and of how many poses its survey was, if it was one."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    run = subprocess.run([TOOL, *arguments], cwd=folder, capture_output=True, text=True)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    if run.returncode > 1:
        raise SystemExit(f"{' '.join(arguments)}: {run.stderr}")
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def write(folder, name, text):
    with open(os.path.join(folder, name), "w", encoding="utf-8") as file:
        file.write(text)


HEAD = 'format = "hollow-probe level 1"\ndimensions = {0}\nup = {1}\nlayers = ["m"]\n'


def boxes(dimensions, count, chance):
    """A floor as long as there are boxes on it, or as wide."""
    across = dimensions - 1
    side = max(10.0, 3.0 * count ** (1 / across))
    up = "[0, 1]" if dimensions == 2 else "[0, 1, 0]"
    z = lambda value: f", {value}" if dimensions == 3 else ""
    text = HEAD.format(dimensions, up)
    text += f'[[solid]]\nname = "floor"\nlayer = "m"\nbox = {{ center = [0, -0.5{z(0)}], size = [{side}, 1{z(side)}] }}\n'
    for i in range(count - 1):
        at = [round((chance.random() - 0.5) * side, 3) for _ in range(across)]
        size = [round(0.3 + chance.random(), 3) for _ in range(dimensions)]
        text += (f'[[solid]]\nname = "box {i}"\nlayer = "m"\nbox = {{ center = [{at[0]}, {size[1] / 2}{z(at[-1])}], '
                 f"size = [{size[0]}, {size[1]}{z(size[-1])}] }}\n")
    return text


def terrain(folder, pieces, chance):
    """Ground of two triangles a place, as a file of its own; the level's text."""
    side = max(2, round(math.sqrt(pieces / 2)) + 1)
    lines = [f"v {x} {chance.random() * 0.4:.3f} {z}" for z in range(side) for x in range(side)]
    for z in range(side - 1):
        for x in range(side - 1):
            a = z * side + x + 1
            lines += [f"f {a} {a + side} {a + 1}", f"f {a + 1} {a + side} {a + side + 1}"]
    write(folder, "ground.obj", "\n".join(lines) + "\n")
    return HEAD.format(3, "[0, 1, 0]") + '[[solid]]\nname = "ground"\nlayer = "m"\nmesh = { file = "ground.obj" }\n'


def rig(dimensions, probes, reach=0.42):
    z = ", 0" if dimensions == 3 else ""
    text = (f'format = "hollow-probe rig 1"\ndimensions = {dimensions}\n[body]\nmeets = ["m"]\n[[body.stance]]\nname = "upright"\n'
            "capsule = { radius = 0.3, height = 1.8 }\n")
    names = []
    for i in range(probes):
        aside = 0.5 * (i / max(probes - 1, 1) - 0.5) if probes > 1 else 0.0
        names.append(f'"p{i}"')
        text += f'[[probe]]\nname = "p{i}"\nkind = "ray"\nfrom = [{aside:.4f}, 0.4{z}]\nalong = "down"\nreach = {reach}\nsees = ["m"]\n'
    return text + f'[[signal]]\nname = "grounded"\nclaims = "ground"\nany = [{", ".join(names)}]\n'


def told(what, sizes, seconds):
    """A line, with the power of the size that fits the upper half of it best: what is constant below weighs less there."""
    half = len(sizes) // 2
    xs = [math.log(size) for size in sizes[half:]]
    ys = [math.log(max(one, 1e-3)) for one in seconds[half:]]
    x, y = sum(xs) / len(xs), sum(ys) / len(ys)
    power = sum((a - x) * (b - y) for a, b in zip(xs, ys)) / sum((a - x) ** 2 for a in xs)
    print(f"| {what} | " + ", ".join(f"{size:,}: {one:.2f}" for size, one in zip(sizes, seconds)) + f" | {power:.2f} |", flush=True)


def main():
    chance = random.Random(1)
    tens = [10 ** k for k in range(1, 6) if 10 ** k <= MOST]
    print("| what grows | seconds of one thread | power |\n|---|---|---|")
    with tempfile.TemporaryDirectory() as folder:
        survey = lambda level, probes="rig.toml", *more: seconds_of(folder, "survey", level, probes, "--threads", "1", *more)
        for dimensions in (2, 3):
            write(folder, "rig.toml", rig(dimensions, 1))
            loads, quick, whole = [], [], []
            for count in tens:
                write(folder, "level.toml", boxes(dimensions, count, chance))
                loads.append(seconds_of(folder, "level", "level.toml"))
                quick.append(survey("level.toml", "rig.toml", "--budget", "20000"))
                if count <= 1_000:
                    whole.append(survey("level.toml", "rig.toml", "--spacing", "0.15" if dimensions == 2 else "1"))
            told(f"boxes in {dimensions}D, loaded", tens, loads)
            told(f"boxes in {dimensions}D, 20,000 poses", tens, quick)
            told(f"boxes in {dimensions}D, all of the ground", tens[: len(whole)], whole)
        write(folder, "rig.toml", rig(3, 1))
        times = []
        for pieces in tens:
            write(folder, "level.toml", terrain(folder, pieces, chance))
            times.append(survey("level.toml", "rig.toml", "--budget", "20000"))
        told("triangles of a terrain, 20,000 poses", tens, times)
        write(folder, "level.toml", boxes(2, 50, chance))
        counts = [1, 2, 4, 8, 16, 32, 60]
        times = []
        for count in counts:
            write(folder, "rig.toml", rig(2, count))
            times.append(survey("level.toml", "rig.toml", "--budget", "20000"))
        told("probes in one signal, 20,000 poses", counts, times)
        write(folder, "rig.toml", rig(2, 1))
        budgets = [10_000, 30_000, 100_000, 300_000, 1_000_000]
        told("poses, 50 boxes in 2D", budgets, [survey("level.toml", "rig.toml", "--spacing", "0.001", "--budget", str(n)) for n in budgets])


main()
