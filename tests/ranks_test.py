#!/usr/bin/env python3
"""A run of several ranks says what one alone says, and what befalls one of them is told.

    ranks_test.py TOOL RANKS_TEST DEMO
"""
import os
import pathlib
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import unittest

TOOL, RANKS, DEMO = (os.path.abspath(argument) for argument in sys.argv[1:4])
# As root, more ranks than cores, and in containers that forbid one process to read another's memory.
ENVIRONMENT = dict(os.environ, OMPI_ALLOW_RUN_AS_ROOT="1", OMPI_ALLOW_RUN_AS_ROOT_CONFIRM="1", OMPI_MCA_rmaps_base_oversubscribe="1",
                   OMPI_MCA_hwloc_base_binding_policy="none", OMPI_MCA_btl_vader_single_copy_mechanism="none", PMIX_MCA_gds="hash")
if shutil.which("mpirun") is None or subprocess.run(["mpirun", "-n", "2", "true"], env=ENVIRONMENT).returncode != 0:
    print("there is no mpirun that works: skipped")
    sys.exit(77)


class RanksOfOneRun(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)

    def mpirun(self, ranks, *command):
        return subprocess.run(["mpirun", "--quiet", "-n", str(ranks), *command], cwd=self.folder.name, env=ENVIRONMENT,
                              capture_output=True, text=True, timeout=300)

    def text(self, name):
        return pathlib.Path(self.folder.name, name).read_text()

    def like_alone(self, *command, result):
        """The same code, text and result with 1, 2 and 4 ranks as without mpirun."""
        alone = subprocess.run([TOOL, *command, result, "alone"], cwd=self.folder.name, capture_output=True, text=True)
        self.assertLess(alone.returncode, 2, alone.stderr)
        for ranks in (1, 2, 4):
            run = self.mpirun(ranks, TOOL, *command, result, "shared", "--threads", "1")
            self.assertEqual(run.returncode, alone.returncode, run.stderr)
            self.assertEqual(run.stdout.replace("to shared", "to alone").replace("wrote shared", "wrote alone"), alone.stdout)
            self.assertEqual(self.text("shared"), self.text("alone"))

    def test_a_survey_in_the_plane(self):
        self.like_alone("survey", f"{DEMO}/culvert.level.toml", f"{DEMO}/keeper-first-try-moving.rig.toml", "--budget", "4000",
                        result="--json")

    def test_a_survey_in_space(self):
        self.like_alone("survey", f"{DEMO}/pumphouse.level.toml", f"{DEMO}/keeper-first-try-3d.rig.toml", "--budget", "6000",
                        result="--json")

    def test_parts_merged(self):
        for number in (1, 2):
            subprocess.run([TOOL, "survey", f"{DEMO}/culvert.level.toml", f"{DEMO}/keeper-first-try.rig.toml", "--budget", "3000",
                            "--part", f"{number}/2", "--into", f"part-{number}"], cwd=self.folder.name, check=True, capture_output=True)
        self.like_alone("merge", "part-1", "part-2", result="--json")

    def test_hunts(self):
        for name in ("culvert.level.toml", "keeper-moving.rig.toml", "keeper.rig.toml", "crossing.drill.toml", "channel-bed.png"):
            shutil.copy(f"{DEMO}/{name}", self.folder.name)
        self.like_alone("hunt", "crossing.drill.toml", "--seeds", "3", "--ticks", "3000", "--try", "0", result="--write")

    def test_a_tuning(self):
        self.like_alone("tune", f"{DEMO}/culvert.level.toml", f"{DEMO}/keeper-first-try.rig.toml", "--free", "probe.foot ray.reach",
                        "--budget", "2000", "--try", "300", result="--write")

    def test_what_one_alone_does_is_done_once(self):
        alone = subprocess.run([TOOL, "schema", "rig"], capture_output=True, text=True)
        self.assertEqual(self.mpirun(3, TOOL, "schema", "rig").stdout, alone.stdout)

    def test_bad_input_is_told_once(self):
        run = self.mpirun(3, TOOL, "survey", "nothing.level.toml", "nothing.rig.toml")
        self.assertEqual(run.returncode, 2)
        self.assertEqual(run.stderr.count("nothing.level.toml:1:1"), 1, run.stderr)
        run = self.mpirun(3, TOOL, "survey", "--nonsense")
        self.assertEqual(run.returncode, 2)
        self.assertEqual(run.stderr.count("--help for more information"), 1, run.stderr)
        run = self.mpirun(2, TOOL, "survey", f"{DEMO}/culvert.level.toml", f"{DEMO}/keeper.rig.toml", "--part", "1/2", "--into", "part")
        self.assertEqual(run.returncode, 2)
        self.assertEqual(run.stderr.count("expected no --part under mpirun"), 1, run.stderr)

    def test_work_is_shared_whatever_its_stages(self):
        for ranks in (1, 2, 3, 5):
            run = self.mpirun(ranks, RANKS)
            self.assertEqual(run.stdout.split("\n")[:-1], ["right: well"] * ranks, run.stderr)

    def test_a_rank_that_fails_is_told_and_the_others_do_its_work(self):
        run = self.mpirun(3, RANKS, "fails")
        self.assertEqual(run.stdout.split("\n")[:-1], ["right: well"] * 3, run.stderr)
        self.assertEqual(run.stderr.count("rank 1 failed: planted: the others do its work"), 1, run.stderr)

    def test_where_all_fail_all_say_so(self):
        run = self.mpirun(3, RANKS, "all fail")
        self.assertEqual(run.stdout.split("\n")[:-1], ["right: planted"] * 3, run.stderr)

    def test_where_one_is_stopped_all_stop(self):
        run = self.mpirun(3, RANKS, "stopped")
        self.assertEqual(len(set(run.stdout.split("\n")[:-1])), 1, run.stdout)
        self.assertIn("stopped", run.stdout)

    def test_a_rank_that_fails_by_itself_ends_the_run_and_says_why(self):
        run = self.mpirun(3, RANKS, "alone")
        self.assertNotEqual(run.returncode, 0)
        self.assertIn("rank 1 of 3 failed, and the run with it: planted outside of the work", run.stderr)

    def test_a_rank_that_dies_ends_the_run_and_parts_are_told(self):
        run = subprocess.Popen(["mpirun", "-n", "2", TOOL, "survey", f"{DEMO}/pumphouse.level.toml", f"{DEMO}/keeper-first-try-3d.rig.toml",
                                "--budget", "5000000", "--json", "result", "--threads", "1"],
                               cwd=self.folder.name, env=ENVIRONMENT, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True)
        self.addCleanup(run.kill)
        second = self.process_of_rank(run.pid, 1)
        time.sleep(1.0)  # it is at work by then
        os.kill(second, signal.SIGKILL)
        told = run.communicate(timeout=60)[1]
        self.assertNotEqual(run.returncode, 0)
        self.assertEqual(told.count("`--part 1/2 --into FILE` to `--part 2/2 --into FILE`, then `merge`"), 1, told)
        self.assertEqual(os.listdir(self.folder.name), [])

    def process_of_rank(self, mpirun, rank):
        """Waits until it has been started."""
        for _ in range(200):
            for process in pathlib.Path("/proc").glob("[0-9]*"):
                try:
                    is_child = f"PPid:\t{mpirun}\n" in (process / "status").read_text()
                    if is_child and f"OMPI_COMM_WORLD_RANK={rank}\0" in (process / "environ").read_text():
                        return int(process.name)
                except OSError:
                    pass  # it has ended
            time.sleep(0.05)
        self.fail("mpirun has started no such rank")


if __name__ == "__main__":
    unittest.main(argv=sys.argv[:1])
