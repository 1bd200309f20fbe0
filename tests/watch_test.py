"""draw --watch: python3 watch_test.py HOLLOW_PROBE DEMO_FOLDER"""
import os
import pathlib
import shutil
import subprocess
import sys
import tempfile
import time

PROBE, DEMO = os.path.abspath(sys.argv[1]), pathlib.Path(sys.argv[2])
PATIENCE = 20.0  # seconds; how quick it is is measured elsewhere


def wait_for(what, condition):
    end = time.monotonic() + PATIENCE
    while time.monotonic() < end:
        if condition():
            return
        time.sleep(0.01)
    raise AssertionError("waited in vain for " + what)


with tempfile.TemporaryDirectory() as folder:
    folder = pathlib.Path(folder)
    level, rig, figure, errors = (folder / n for n in ("culvert.level.toml", "keeper.rig.toml", "pose.png", "errors"))
    for file in DEMO.iterdir():
        shutil.copy(file, folder)
    with open(errors, "w") as log:
        watching = subprocess.Popen([PROBE, "draw", level.name, rig.name, "--figure", figure.name, "--watch"],
                                    cwd=folder, stdout=subprocess.DEVNULL, stderr=log)
    try:
        wait_for("the first picture", figure.exists)
        first = figure.read_bytes()
        text = level.read_text()

        # A level saved with the body's start elsewhere: another picture.
        assert "at = [" in text
        start = text.index("at = [")
        level.write_text(text[:start] + "at = [-3.0, 0.5]" + text[text.index("]", start) + 1:])
        wait_for("a new picture", lambda: figure.read_bytes() != first)
        second = figure.read_bytes()

        # One that is broken: told, and the picture stays.
        level.write_text(text.replace("up = [", "upp = ["))
        wait_for("a message", lambda: "upp" in errors.read_text())
        assert "culvert.level.toml:" in errors.read_text(), errors.read_text()
        assert figure.read_bytes() == second
        assert watching.poll() is None

        # Mended, and as it was at first.
        level.write_text(text)
        wait_for("the first picture again", lambda: figure.read_bytes() == first)

        # The rig counts, too; what is drawn does not set it off again.
        rig.write_text(rig.read_text().replace("height = 1.8", "height = 1.7"))
        wait_for("a smaller body", lambda: figure.read_bytes() != first)
        time.sleep(0.3)
        written = figure.stat().st_mtime_ns
        time.sleep(0.3)
        assert figure.stat().st_mtime_ns == written
    finally:
        watching.terminate()
        watching.wait()
print("draw --watch: as promised")
