#!/usr/bin/env python3
"""Holds the schemas against files: those of the project are valid, and files with a fault planted are not.

    schema_test.py TOOL PROJECT

The schemas in docs/schemas of files that are read are as the tool prints them. Outputs of the tool are valid, too.
"""
import copy
import json
import pathlib
import shutil
import subprocess
import sys
import tempfile
import tomllib

try:
    import jsonschema
except ImportError:
    print("python3-jsonschema is not installed: skipped")
    sys.exit(77)

TOOL, PROJECT = sys.argv[1], pathlib.Path(sys.argv[2])
SCHEMAS = PROJECT / "docs" / "schemas"
faults = []


def check(condition, message):
    if not condition:
        faults.append(message)


def kind_of(document):
    return document["format"].split()[1]


def main():
    validators = {}
    for name in ("level", "rig", "drill", "suite"):
        printed = subprocess.run([TOOL, "schema", name], capture_output=True, text=True, check=True).stdout
        stored = SCHEMAS / f"{name}.schema.json"
        check(stored.exists() and stored.read_text() == printed, f"{stored} is out of date: hollow-probe schema {name}")
        schema = json.loads(printed)
        jsonschema.Draft202012Validator.check_schema(schema)
        validators[name] = jsonschema.Draft202012Validator(schema)
    seen = dict.fromkeys(validators, 0)
    for path in sorted([*PROJECT.glob("data/demo/*.toml"), *PROJECT.glob("examples/**/*.toml")]):
        document = tomllib.loads(path.read_text())
        kind = kind_of(document)
        seen[kind] += 1
        errors = [e.message for e in validators[kind].iter_errors(document)]
        check(not errors, f"{path}: {errors[:2]}")
        # Faults: a key misspelt, a value of another type, a key that must be there left out.
        for fault in ("unknown", "type", "missing"):
            wrong = copy.deepcopy(document)
            if fault == "unknown":
                wrong["formatt"] = 1
            elif fault == "type":
                wrong["format"] = 3
            else:
                del wrong["format"]
            check(not validators[kind].is_valid(wrong), f"{path}: a fault ({fault}) passes")
        for probe in document.get("probe", []):
            wrong = copy.deepcopy(document)
            wrong["probe"][document["probe"].index(probe)]["reech"] = 0.4
            check(not validators["rig"].is_valid(wrong), f"{path}: a misspelt key of a probe passes")
            # Beyond its limits, or a word that is none.
            for key, value in (("reach", -0.1), ("within", 90.1), ("take", "last"), ("accept", {"angle": [0.0, 180.1]})):
                wrong = copy.deepcopy(document)
                wrong["probe"][document["probe"].index(probe)][key] = value
                check(not validators["rig"].is_valid(wrong), f"{path}: {key} = {value} passes")
    for kind, count in seen.items():
        check(count > 0, f"no {kind} file was looked at")
    outputs(validators)
    print("\n".join(faults) if faults else f"valid: {seen}")
    return 1 if faults else 0


def scratch_drill(demo, scratch):
    """A drill whose hunt may leave what it finds beside it."""
    for path in demo.iterdir():
        shutil.copy(path, scratch)
    return pathlib.Path(scratch) / "crossing-first-try.drill.toml"


def outputs(validators):
    """What the tool writes is as the schemas of its outputs have it."""
    demo = PROJECT / "data" / "demo"
    with tempfile.TemporaryDirectory() as scratch:
        runs = {"survey": ["survey", demo / "culvert.level.toml", demo / "keeper-first-try.rig.toml", "--spacing", "0.5"],
                "check": ["check", demo / "station.suite.toml"],
                "level-report": ["level", demo / "culvert.level.toml"],
                "drill-result": ["drill", demo / "crossing-first-try.drill.toml", demo / "crossing.drill.toml"],
                "hunt-result": ["hunt", scratch_drill(demo, scratch), "--ticks", "2000"],
                "readings": ["draw", demo / "pumphouse.level.toml", demo / "keeper-3d.rig.toml", "--at=0,0,0"],
                "data-sheet": ["gauge", demo / "keeper-3d.rig.toml", "--timing"],
                "curve": ["gauge", demo / "keeper.rig.toml", "--level", demo / "culvert.level.toml", "--budget", "2000",
                          "--vary", "probe.soles.reach=0.01:0.03:0.01", "--vary", "probe.soles.shape.radius=0.25:0.3:0.05"],
                "comparison": ["compare", demo / "culvert.level.toml", demo / "keeper.rig.toml",
                               demo / "keeper-first-try.rig.toml", "--gauge", "--budget", "4000",
                               "--drill", demo / "crossing.drill.toml"],
                "proposal": ["propose", demo / "culvert.level.toml", "--body", "box:0.6x1.5", "--claims", "ground,headroom",
                             "--budget", "4000"],
                "tuning": ["tune", demo / "culvert.level.toml", demo / "keeper-first-try.rig.toml", "--budget", "4000",
                           "--free", "probe.foot ray.sees", "--free", "probe.foot ray.reach=0.3:0.6", "--try", "200"],
                "tuning-front": ["tune", demo / "culvert.level.toml", demo / "keeper-first-try.rig.toml", "--budget", "4000",
                                 "--free", "probe.foot ray.sees", "--free", "probe.foot ray.reach=0.3:0.6", "--front",
                                 "--try", "200"]}
        for name, arguments in runs.items():
            out = pathlib.Path(scratch) / "out.json"
            subprocess.run([TOOL, *map(str, arguments), "--json", out], capture_output=True)
            schema = json.loads((SCHEMAS / f"{name}.schema.json").read_text())
            jsonschema.Draft202012Validator.check_schema(schema)
            validator = jsonschema.Draft202012Validator(schema)
            document = json.loads(out.read_text())
            errors = [f"{list(e.path)}: {e.message[:120]}" for e in validator.iter_errors(document)]
            check(not errors, f"{name}: {errors[:3]}")
            for key in schema["required"]:
                wrong = {k: v for k, v in document.items() if k != key}
                check(not validator.is_valid(wrong), f"{name}: passes without {key}")


if __name__ == "__main__":
    sys.exit(main())
