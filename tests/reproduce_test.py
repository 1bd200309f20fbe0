"""Every command that a survey prints gives the verdict that it is printed for. Usage: reproduce_test.py TOOL PROJECT"""
import json
import pathlib
import re
import shlex
import subprocess
import sys
import tempfile
import unittest

TOOL, PROJECT = pathlib.Path(sys.argv[1]).resolve(), pathlib.Path(sys.argv[2]).resolve()


def surveys():
    """Levels and rigs of all stories, and of the demo."""
    for folder in sorted((PROJECT / "examples/stories").iterdir()):
        level = folder / "level.toml"
        rigs = [folder / name for name in ("first.rig.toml", "cured.rig.toml") if (folder / name).exists()]
        if level.exists():
            text = (folder / "README.md").read_text()
            flags = re.search(r"Flags: `([^`]*)`", text)
            for rig in rigs:
                yield level, rig, shlex.split(flags[1]) if flags else []
    demo = PROJECT / "data/demo"
    for name in ("keeper-first-try", "keeper-moving", "keeper-whole"):
        yield demo / "culvert.level.toml", demo / f"{name}.rig.toml", []


class Reproduce(unittest.TestCase):
    def test_each_command_gives_its_verdict(self):
        count = 0
        with tempfile.TemporaryDirectory() as folder:
            for level, rig, flags in surveys():
                done = subprocess.run([TOOL, "survey", level, rig, "--json", "result.json", "--html", "page.html", "--budget", "6000", "--try", "0", *flags],
                                      cwd=folder, capture_output=True, text=True)
                self.assertIn(done.returncode, (0, 1), done.stderr)
                result = json.loads((pathlib.Path(folder) / "result.json").read_text())
                page = (pathlib.Path(folder) / "page.html").read_text()
                data = json.loads(page[page.index('id="data">') + 10:page.index("</script>", page.index('id="data">'))])
                for signal in data["reports"][0]["signals"]:
                    if not signal["helper"]:
                        told = result["signals"][signal["name"]]
                        names = ["true_contact", "missed_contact", "false_contact", "true_clear", "undecided", "forgiven"]
                        self.assertEqual([told.get(name, 0) for name in names], signal["poses"])
                        self.assertEqual([told["measure"].get(name, 0) for name in names], signal["measure"])
                commands = {finding["id"]: finding["command"] for finding in data["reports"][0]["findings"]}
                for finding in result["findings"][:12]:
                    words = shlex.split(commands[finding["id"]])
                    self.assertEqual(words[:2], ["hollow-probe", "draw"])
                    at = words.index("--figure")
                    drawn = subprocess.run([TOOL, *words[1:at], "--json", "-"], cwd=folder, capture_output=True, text=True)
                    self.assertEqual(drawn.returncode, 0, drawn.stderr)
                    signal = json.loads(drawn.stdout)["signals"][finding["signal"]]
                    with self.subTest(story=rig.parent.name, rig=rig.name, command=commands[finding["id"]]):
                        self.assertEqual(signal["verdict"], finding["verdict"])
                    count += 1
        print(f"{count} commands")
        self.assertGreater(count, 80)


if __name__ == "__main__":
    unittest.main(argv=sys.argv[:1])
