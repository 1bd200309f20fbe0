#!/usr/bin/env python3
"""Writes the result tables of the stories, or with --check tells whether they are as the tool has them now.

    tables.py TOOL [--check]

A story fails the check if its first rig has no wrong verdict, if the cause its README names does not lead the worst
missed or the worst false finding, if its cured rig (or level) has a wrong verdict, or if its table is out of date. A
story in motion fails it if its first drill does not break what its README says, if its cured one or any further drill
breaks anything, if the cured one has a wrong tick that is not forgiven, or if the hunt it speaks of finds nothing. A story
of a choice fails it if the rig its README chooses is wrong anywhere, or another is not.
"""
import json
import pathlib
import re
import subprocess
import sys
import tempfile

HERE = pathlib.Path(__file__).parent
HEAD = ("| rig | signal | claims | true contact | missed | false | true clear | value off by: median, 95 %, worst |\n"
        "|---|---|---|---|---|---|---|---|\n")


CHOICE_HEAD = "| rig | missed | false | gravest | casts a reading | lines of the data sheet wrong |\n|---|---|---|---|---|---|\n"
DRILLED_CHOICE_HEAD = CHOICE_HEAD.replace(" |\n|", " | promises broken |\n|", 1).rstrip("\n") + "---|\n"
DRILL_HEAD = "| drill | expectations broken | figures |\n|---|---|---|\n"


def run(tool, *arguments):
    done = subprocess.run([tool, *map(str, arguments)], capture_output=True, text=True)
    if done.returncode not in (0, 1):
        sys.exit(f"{' '.join(map(str, arguments))}: {done.stderr}")
    return json.loads(done.stdout)


def shown(number, digits=4):
    """What is rounding is 0."""
    return "0" if abs(number) < 1e-9 else f"{number:.{digits}g}"


def survey(tool, level, rig, flags):
    return run(tool, "survey", level, rig, "--json", "-", *flags)


def rows(name, result):
    def value(v):
        error = v.get("value_error")
        return "" if error is None else ", ".join(shown(error[k], 3) for k in ("median", "95_percent", "worst"))

    def area(v, verdict):
        return shown(v["measure"][verdict]) + (f" ({v[verdict]})" if v[verdict] else "")

    return "".join(
        f"| {name} | {signal} | {v['claims']} | {area(v, 'true_contact')} | {area(v, 'missed_contact')} | "
        f"{area(v, 'false_contact')} | {area(v, 'true_clear')} | {value(v)} |\n"
        for signal, v in result["signals"].items())


def wrong(result):
    return sum(v["missed_contact"] + v["false_contact"] for v in result["signals"].values())


def broken_by(drill):
    return [b.get("figure", b["expected"]) for b in drill["broken"]]


def drill_row(name, drill):
    figures = [f"{key.replace('_', ' ')} {shown(value)}" for key, value in drill["figures"].items()
               if shown(value) != ("1" if key == "headway" else "0")]
    for signal, its in drill["signals"].items():
        told = [f"{key.replace('_', ' ')} {shown(value)}" for key, value in its.items()
                if key != "claims" and shown(value) != "0"]
        figures.append(f"{signal}: {', '.join(told) or 'as the truth'}")
    return f"| {name} | {', '.join(broken_by(drill)) or 'none'} | {'; '.join(figures)} |\n"


def story_in_motion(tool, folder, text):
    """What its table is, and what is wrong with it."""
    expected = re.search(r"Breaks: `(\w+)`", text)[1]
    first, cured = (run(tool, "drill", folder / f"{name}.drill.toml", "--json", "-")["drills"][0]
                    for name in ("first", "cured"))
    faults = []
    if expected not in broken_by(first):
        faults.append(f"{folder.name}: the README says it breaks {expected}, it breaks {', '.join(broken_by(first))}")
    if not cured["kept"]:
        faults.append(f"{folder.name}: the cured drill breaks {', '.join(broken_by(cured))}")
    for signal, its in cured["signals"].items():
        if its.get("false_ticks", 0) or its.get("missed_ticks", 0):
            faults.append(f"{folder.name}: cured, '{signal}' has wrong ticks left")
    for further in sorted(set(folder.glob("*.drill.toml"))):
        if further.name not in ("first.drill.toml", "cured.drill.toml"):
            if not run(tool, "drill", further, "--json", "-")["drills"][0]["kept"]:
                faults.append(f"{folder.name}: {further.name} breaks an expectation")
    hunted = re.search(r"Found by a hunt from `([^`]*)`", text)
    if hunted:
        with tempfile.TemporaryDirectory() as scratch:
            found = run(tool, "hunt", folder / hunted[1], "--write", f"{scratch}/found.drill.toml", "--json", "-")
            again = found["found"] and run(tool, "drill", f"{scratch}/found.drill.toml", "--json", "-")["drills"][0]
            if not again or expected not in broken_by(again):
                faults.append(f"{folder.name}: the hunt finds nothing that breaks {expected}")
    return DRILL_HEAD + drill_row("first", first) + drill_row("cured", cured), faults


def head_of_choice(folder):
    return DRILLED_CHOICE_HEAD if any(folder.glob("*.drill.toml")) else CHOICE_HEAD


def story_of_a_choice(tool, folder, text):
    """Rigs side by side: what its table is, and what is wrong with it."""
    chosen = re.search(r"Chosen: `([^`]*)`", text)[1]
    drills = [flag for drill in sorted(folder.glob("*.drill.toml")) for flag in ("--drill", drill)]
    result = run(tool, "compare", folder / "level.toml", *sorted(folder.glob("*.rig.toml")), *drills, "--gauge", "--json", "-")
    faults, table = [], head_of_choice(folder)
    for rig in result["rigs"]:
        name = pathlib.Path(rig["rig"]).name
        broken = rig["drills"]["broken"] if drills else 0
        is_wrong = rig["missed_poses"] + rig["false_poses"] + broken > 0
        if is_wrong == (name == chosen):
            faults.append(f"{folder.name}: {name} is {'wrong somewhere' if is_wrong else 'wrong nowhere'}, chosen is {chosen}")
        table += (f"| {name} | {shown(rig['missed'])} | {shown(rig['false'])} | {shown(rig['gravest'] or 0)} | "
                  f"{rig['casts']} | {rig['wrong_lines']} |{f' {broken} |' if drills else ''}\n")
    return table, faults


def main():
    tool, check = sys.argv[1], "--check" in sys.argv
    faults = []
    for readme in sorted(HERE.glob("*/README.md")):
        folder, text = readme.parent, readme.read_text()
        if (folder / "first.drill.toml").exists():
            table, found = story_in_motion(tool, folder, text)
            faults += found
            new = text[: text.index(DRILL_HEAD)] + table
            if check and new != text:
                faults.append(f"{folder.name}: the table is out of date: run tables.py without --check")
            if not check:
                readme.write_text(new)
            continue
        if "Chosen: `" in text:
            table, found = story_of_a_choice(tool, folder, text)
            faults += found
            new = text[: text.index(head_of_choice(folder))] + table
            if check and new != text:
                faults.append(f"{folder.name}: the table is out of date: run tables.py without --check")
            if not check:
                readme.write_text(new)
            continue
        flags = (re.search(r"Surveyed with `([^`]*)`", text) or [None, ""])[1].split()
        cause = re.search(r"Named cause: `(\w+)`", text)[1]
        first = survey(tool, folder / "level.toml", folder / "first.rig.toml", flags)
        cured_level = folder / "cured.level.toml"
        if cured_level.exists():
            cured_name = "first.rig.toml on cured.level.toml"
            cured = survey(tool, cured_level, folder / "first.rig.toml", flags)
        else:
            cured_name = "cured.rig.toml"
            cured = survey(tool, folder / "level.toml", folder / "cured.rig.toml", flags)
        table = HEAD + rows("first.rig.toml", first) + rows(cured_name, cured)
        if wrong(first) == 0:
            faults.append(f"{folder.name}: the first rig has no wrong verdict")
        worst = {}  # of each verdict
        for finding in first["findings"]:
            worst.setdefault(finding["verdict"], finding["causes"][0]["cause"])
        if cause not in worst.values():
            faults.append(f"{folder.name}: the README names {cause}, the worst findings {', '.join(worst.values())}")
        if wrong(cured) != 0:
            faults.append(f"{folder.name}: the cured rig has {wrong(cured)} wrong verdicts")
        new = text[: text.index(HEAD)] + table
        if check and new != text:
            faults.append(f"{folder.name}: the table is out of date: run tables.py without --check")
        if not check:
            readme.write_text(new)
    print("\n".join(faults) if faults else "every story fails for its stated cause, and its cure cures it")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
