"""Interactive pages, used in a headless browser as people would: python3 page_test.py HOLLOW_PROBE DEMO_FOLDER"""
import json
import os
import re
import subprocess
import sys
import tempfile
import unittest

import browser

PROBE, DEMO = os.path.abspath(sys.argv[1]), sys.argv[2]
SKIPPED = 77


def tool(*arguments):
    """Runs the tool on the demo's files; wrong verdicts are no failure here."""
    made = subprocess.run([PROBE, *arguments], cwd=DEMO, capture_output=True, text=True)
    assert made.returncode in (0, 1), made.stderr
    return made.stdout


class Pages(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = tempfile.TemporaryDirectory()
        path = lambda name: os.path.join(cls.folder.name, name)
        cls.path = staticmethod(path)
        survey = ["survey", "culvert.level.toml", "keeper-first-try.rig.toml", "--spacing", "0.3"]
        tool(*survey, "--html", path("plane.html"), "--json", path("plane.json"))
        tool("survey", "culvert.level.toml", "keeper.rig.toml", "--before", "keeper-first-try.rig.toml",
             "--spacing", "0.3", "--html", path("both.html"))
        tool("survey", "pumphouse.level.toml", "keeper-first-try-3d.rig.toml", "--budget", "10000",
             "--html", path("space.html"), "--json", path("space.json"))
        tool("drill", "crossing-first-try.drill.toml", "crossing.drill.toml", "--html", path("drill.html"),
             "--json", path("drill.json"))
        tool("check", "station.suite.toml", "--html", path("check.html"))
        cls.browser = browser.Browser()

    @classmethod
    def tearDownClass(cls):
        cls.browser.close()
        cls.folder.cleanup()

    def setUp(self):
        self.browser.complaints.clear()
        self.browser.resize(1280, 800)

    def tearDown(self):
        self.assertEqual(self.browser.complaints, [])

    def open(self, name):
        self.browser.open(self.path(name))

    def json(self, name):
        with open(self.path(name), encoding="utf-8") as file:
            return json.load(file)

    def run_js(self, expression):
        return self.browser.run(expression)

    def pixels(self, at, reach=0):
        """The colours around a point of the view's canvas, in CSS pixels."""
        x, y = (round(c) for c in at)
        return self.run_js(f"""(() => {{
            const from = document.querySelector('.space-canvas') ?? hollowProbe.view.canvas;
            const copy = document.createElement("canvas");
            [copy.width, copy.height] = [from.width, from.height];
            const context = copy.getContext("2d");
            hollowProbe.view.draw();
            context.drawImage(from, 0, 0);
            const data = context.getImageData({x - reach}, {y - reach}, {2 * reach + 1}, {2 * reach + 1}).data;
            const list = [];
            for (let i = 0; i < data.length; i += 4) list.push([data[i], data[i + 1], data[i + 2]]);
            return list; }})()""")

    def view_at(self, at):
        """A point of the view's canvas on the page."""
        x, y = self.run_js("(r => [r.x, r.y])(hollowProbe.view.canvas.getBoundingClientRect())")
        return [x + at[0], y + at[1]]

    def screen_of(self, point):
        return self.run_js(f"hollowProbe.view.screenOf({json.dumps(point)})")

    @staticmethod
    def is_orange(color):
        red, green, blue = color
        return red > 170 and 90 < green < 190 and blue < 90

    def colours_of_all(self):
        size = self.run_js("[hollowProbe.view.width, hollowProbe.view.height]")
        return self.run_js(f"""(() => {{
            hollowProbe.view.draw();
            const copy = document.createElement("canvas");
            [copy.width, copy.height] = [{size[0]}, {size[1]}];
            const context = copy.getContext("2d");
            context.drawImage(document.querySelector('.space-canvas') ?? hollowProbe.view.canvas, 0, 0, {size[0]}, {size[1]});
            const data = context.getImageData(0, 0, {size[0]}, {size[1]}).data;
            const seen = new Map();
            for (let i = 0; i < data.length; i += 4) {{
                const key = [data[i] >> 4, data[i + 1] >> 4, data[i + 2] >> 4].join();
                seen.set(key, (seen.get(key) ?? 0) + 1);
            }}
            return [...seen.values()].sort((a, b) => b - a); }})()""")

    # A survey in the plane.

    def test_table_and_findings_are_those_of_the_survey(self):
        self.open("plane.html")
        result = self.json("plane.json")
        for signal, row in zip(result["signals"].values(), self.run_js(
                "[...document.querySelectorAll('.verdicts tbody tr')].map(r => [...r.querySelectorAll('td')].map(c => [c.title, c.firstChild.textContent]))")):
            names = ("true_contact", "missed_contact", "false_contact", "true_clear", "undecided")
            self.assertEqual(signal["forgiven"], 0)
            self.assertEqual(len(row), 7)
            self.assertEqual([title for title, _ in row[:5]], [f"{signal[name]} poses" for name in names])
            for (_, shown), name in zip(row, names):
                self.assertAlmostEqual(float(shown), signal["measure"][name], delta=6e-4 * signal["measure"][name] + 1e-12)
        shown = self.run_js("[...document.querySelectorAll('[data-finding]')].map(b => b.dataset.finding)")
        self.assertEqual(shown, [finding["id"] for finding in result["findings"]])

    def test_the_chart_has_a_bar_for_each_signal_that_is_judged(self):
        with open(os.path.join(DEMO, "keeper-first-try.rig.toml"), encoding="utf-8") as file:
            before, after = file.read().split("[[signal]]", 1)
        probe = re.search(r'\[\[probe\]\]\s*name = "([^"]+)"', before).group(1)
        with open(self.path("helped.rig.toml"), "w", encoding="utf-8") as file:
            file.write(f'{before}[[signal]]\nname = "helper"\nany = ["{probe}"]\n\n[[signal]]{after}')
        tool("survey", "culvert.level.toml", self.path("helped.rig.toml"), "--budget", "3000", "--html", self.path("helped.html"),
             "--json", self.path("helped.json"))
        self.open("helped.html")
        judged = {name: s["measure"] for name, s in self.json("helped.json")["signals"].items() if s["claims"] != "helper"}
        bars = self.run_js("(d => d.labels.map((name, i) => [name, d.datasets[0].data[i], d.datasets[1].data[i]]))"
                           "(Chart.getChart(document.querySelector('.chart canvas')).data)")
        self.assertNotIn("helper", judged)
        self.assertEqual([bar[0] for bar in bars], list(judged))
        for name, missed, false in bars:
            self.assertAlmostEqual(missed, judged[name]["missed_contact"], delta=1e-3 * missed)
            self.assertAlmostEqual(false, judged[name]["false_contact"], delta=1e-3 * false)

    def test_a_finding_is_drawn_where_it_is(self):
        self.open("plane.html")
        for finding in self.json("plane.json")["findings"][:4]:
            self.browser.click_on(f"[data-finding='{finding['id']}']")
            anchor = finding["worst"]["anchor"]
            at = self.screen_of(anchor)
            width, height = self.run_js("[hollowProbe.view.width, hollowProbe.view.height]")
            self.assertTrue(0 < at[0] < width and 0 < at[1] < height)
            # The anchor's dot is of the body's colour, dark; the ring of the missed contact lies around what is missed.
            self.assertTrue(any(sum(c) < 160 for c in self.pixels(at, 2)), finding["id"])
            truth = self.run_js("hollowProbe.view.pose.truth.at")
            self.assertTrue(any(self.is_orange(c) for c in self.pixels(self.screen_of(truth), 11)), finding["id"])
            # The truth is met where the body is, within its size.
            self.assertLess(sum((a - b) ** 2 for a, b in zip(truth, anchor)) ** 0.5, 0.7)
            told = self.run_js("document.getElementById('detail').textContent")
            for words in (finding["id"], finding["causes"][0]["cause"].replace("_", " "), "hollow-probe draw", "foot ray"):
                self.assertIn(words, told)

    def test_the_command_shown_reproduces_the_finding(self):
        self.open("plane.html")
        self.browser.click_on("[data-finding]")
        command = self.run_js("document.querySelector('.detail .command code').textContent").split()
        self.assertEqual(command[0], "hollow-probe")
        readings = json.loads(tool(*command[1:-2], "--json", "-"))
        self.assertTrue(readings["signals"]["grounded"]["truth"])
        self.assertFalse(readings["signals"]["grounded"]["on"])

    def test_filters(self):
        self.open("plane.html")
        result = self.json("plane.json")
        every = len(result["findings"])
        marks = lambda: int(self.run_js("document.getElementById('shown').textContent").split()[0])
        findings = lambda: self.run_js("document.querySelectorAll('[data-finding]').length")
        poses = sum(result["signals"]["grounded"][v] for v in ("true_contact", "missed_contact", "false_contact", "true_clear", "undecided"))
        self.assertEqual((marks(), findings()), (poses, every))
        self.browser.click_on("[data-verdict='true_clear']")
        self.assertEqual(marks(), poses - result["signals"]["grounded"]["true_clear"])
        self.browser.click_on("[data-verdict='missed_contact']")
        left = result["signals"]["grounded"]["true_contact"] + result["signals"]["grounded"]["undecided"]
        self.assertEqual((marks(), findings()), (left, 0))
        self.browser.click_on("[data-verdict='missed_contact']")
        choose = "(s => { s.value = '%s'; s.dispatchEvent(new Event('change')); })([...document.querySelectorAll('.filters select')].find(s => [...s.options].some(o => o.value === '%s')))"
        self.run_js(choose % ("layer_unseen", "layer_unseen"))
        some = [f for f in result["findings"] if any(c["cause"] == "layer_unseen" for c in f["causes"])]
        self.assertTrue(0 < len(some) < every)
        self.assertEqual(findings(), len(some))

    def test_pan_zoom_and_keys(self):
        self.open("plane.html")
        self.run_js("hollowProbe.view.fit()")
        self.browser.settle()
        before = self.screen_of([0, 0])
        self.browser.drag(self.view_at([300, 100]), self.view_at([360, 130]))
        after = self.screen_of([0, 0])
        self.assertAlmostEqual(after[0] - before[0], 60, delta=1)
        self.assertAlmostEqual(after[1] - before[1], 30, delta=1)
        scale = self.run_js("hollowProbe.view.scale")
        self.browser.wheel(*self.view_at(self.screen_of([0, 0])), -300)
        self.assertGreater(self.run_js("hollowProbe.view.scale"), 1.3 * scale)
        # What is under the pointer stays there.
        self.assertAlmostEqual(self.screen_of([0, 0])[0], after[0], delta=2)
        self.run_js("hollowProbe.view.canvas.focus()")
        x = self.screen_of([0, 0])[0]
        self.browser.key("ArrowLeft")
        self.assertGreater(self.screen_of([0, 0])[0], x + 20)
        self.browser.key("0")
        self.assertAlmostEqual(self.run_js("hollowProbe.view.scale"), scale, delta=1e-6)

    def test_a_click_on_a_mark_tells_its_verdicts(self):
        self.open("plane.html")
        self.browser.click_on("[data-finding]")
        at = self.screen_of(self.json("plane.json")["findings"][0]["worst"]["anchor"])
        self.run_js("hollowProbe.view.canvas.scrollIntoView()")
        self.browser.click(*self.view_at(at))
        told = self.run_js("document.getElementById('detail').textContent")
        self.assertIn("Pose at", told)
        self.assertIn("missed contact", told)

    def test_layers_go_and_come_back(self):
        self.open("plane.html")
        self.run_js("hollowProbe.view.flyTo([8.6, 1.8], [9.4, 2.1], 0.9); hollowProbe.view.setMarks(null)")
        walk = self.screen_of([9.0, 1.95])
        ground = self.run_js("getComputedStyle(document.documentElement).getPropertyValue('--ground')")
        self.assertEqual(ground, "#fff")
        seen = self.pixels(walk, 3)
        self.browser.click_on("[data-layer='grating']")
        hidden = self.pixels(walk, 3)
        self.assertTrue(all(c == [255, 255, 255] for c in hidden))
        self.assertFalse(any(c == [255, 255, 255] for c in seen))
        self.browser.click_on("[data-layer='grating']")
        self.assertEqual(self.pixels(walk, 3), seen)

    def test_keyboard_alone_reaches_a_finding(self):
        self.open("plane.html")
        self.run_js("document.querySelector('[data-finding]').focus()")
        self.browser.key("Enter")
        self.assertEqual(self.run_js("document.querySelector('[data-finding]').getAttribute('aria-pressed')"), "true")
        nameless = self.run_js("""[...document.querySelectorAll('button, select, input, canvas:not([aria-hidden])')].filter(e =>
            !(e.textContent.trim() || e.getAttribute('aria-label') || e.closest('label'))).length""")
        self.assertEqual(nameless, 0)

    def test_light_and_dark(self):
        self.open("plane.html")
        light = self.pixels([5, 5])[0]
        self.browser.click_on("#theme")
        dark = self.pixels([5, 5])[0]
        self.assertGreater(min(light), 230)
        self.assertLess(max(dark), 60)
        self.browser.resize(1280, 800, dark=True)
        self.open("plane.html")
        self.assertLess(max(self.pixels([5, 5])[0]), 60)

    def test_narrow_windows_need_no_scrolling_sideways(self):
        for name in ("plane.html", "space.html", "drill.html", "check.html", "both.html"):
            self.browser.resize(480, 900)
            self.open(name)
            self.assertLessEqual(self.run_js("document.documentElement.scrollWidth"), 480, name)

    def test_the_switch_between_rigs(self):
        self.open("both.html")
        missed = "document.querySelector('.verdicts tbody tr').children[2].title"
        self.assertEqual(self.run_js(missed), "0 poses")
        self.run_js("hollowProbe.view.zoom(3)")
        scale, center = self.run_js("[hollowProbe.view.scale, hollowProbe.view.center]")
        self.browser.click_on("[data-report='1']")
        self.assertEqual(self.run_js(missed), f"{self.json('plane.json')['signals']['grounded']['missed_contact']} poses")
        self.assertEqual(self.run_js("[hollowProbe.view.scale, hollowProbe.view.center]"), [scale, center])
        self.assertIn("before", self.run_js("document.querySelector('[data-report=\"1\"]').textContent"))
        # However often: a view that is off the page has no size of its own.
        for report in (0, 1, 0, 1, 0):
            self.browser.click_on(f"[data-report='{report}']")
            self.browser.settle()
        again, place = self.run_js("[hollowProbe.view.scale, hollowProbe.view.center]")
        self.assertAlmostEqual(again, scale, delta=1e-9 * scale)
        self.assertEqual(place, center)
        self.assertGreater(len(self.colours_of_all()), 8)
        # What became of findings is told at the same poses.
        told = self.run_js("document.querySelector('#compared').textContent")
        self.assertRegex(told, r"At the same \d+ poses: [1-9]\d* mended, 0 spoiled, 0 wrong in both. Findings: [1-9]\d* cured, 0 new, 0 unchanged")
        self.browser.click_on("[data-report='1']")
        self.assertIn(", cured", self.run_js("document.querySelector('[data-finding]').textContent"))

    def test_rigs_side_by_side(self):
        tool("compare", "culvert.level.toml", "keeper.rig.toml", "keeper-first-try.rig.toml", "--budget", "4000",
             "--html", self.path("compared.html"))
        self.open("compared.html")
        names = self.run_js("[...document.querySelectorAll('[data-report]')].map((tab) => tab.textContent)")
        self.assertEqual(names, ["1: keeper.rig.toml", "2: keeper-first-try.rig.toml"])
        # The first is held to nothing; the second to the first.
        changes = "document.querySelectorAll('.verdicts tbody small').length + document.querySelector('.verdicts').textContent"
        self.assertNotIn("+", self.run_js(changes))
        self.browser.click_on("[data-report='1']")
        self.assertIn("+", self.run_js(changes))
        self.assertIn("worse than 1", self.run_js("document.querySelector('details pre').textContent"))

    def test_the_switch_keeps_the_place_in_space_too(self):
        tool("survey", "pumphouse.level.toml", "keeper-3d.rig.toml", "--before", "keeper-first-try-3d.rig.toml",
             "--budget", "4000", "--html", self.path("both3.html"))
        self.open("both3.html")
        self.browser.drag(self.view_at([300, 200]), self.view_at([420, 220]))
        eye = "[...hollowProbe.view.camera.position.toArray(), ...hollowProbe.view.controls.target.toArray()]"
        before = self.run_js(eye)
        self.browser.click_on("[data-report='1']")
        for a, b in zip(self.run_js(eye), before):
            self.assertAlmostEqual(a, b, delta=1e-6)
        self.assertGreater(len(self.colours_of_all()), 12)

    def test_errors_in_the_data_show_a_message(self):
        with open(self.path("plane.html"), encoding="utf-8") as file:
            page = file.read()
        start = page.index('id="data">') + len('id="data">')
        for name, data in (("cut.html", page[start:start + 5000]), ("other.html", '{"format": "something else"}'), ("empty.html", "")):
            with open(self.path(name), "w", encoding="utf-8") as file:
                file.write(page[:start] + data + page[page.index("</script>", start):])
            self.open(name)
            self.assertIn("cannot be shown", self.run_js("document.querySelector('[role=alert]').textContent"))

    # A survey in space.

    def test_space_is_drawn_and_turns(self):
        self.open("space.html")
        shades = self.colours_of_all()
        self.assertGreater(len(shades), 12)
        at = self.run_js("hollowProbe.view.camera.position.toArray()")
        self.browser.drag(self.view_at([300, 200]), self.view_at([420, 220]))
        turned = self.run_js("hollowProbe.view.camera.position.toArray()")
        self.assertGreater(max(abs(a - b) for a, b in zip(at, turned)), 1.0)
        distance = "hollowProbe.view.camera.position.distanceTo(hollowProbe.view.controls.target)"
        before = self.run_js(distance)
        self.browser.wheel(*self.view_at([300, 200]), -300)
        self.assertLess(self.run_js(distance), before)
        self.run_js("hollowProbe.view.canvas.focus()")
        at = self.run_js("hollowProbe.view.camera.position.toArray()")
        self.browser.key("ArrowLeft")
        self.assertNotEqual(self.run_js("hollowProbe.view.camera.position.toArray()"), at)

    def test_space_flies_to_a_finding(self):
        self.open("space.html")
        for finding in self.json("space.json")["findings"][:3]:
            self.browser.click_on(f"[data-finding='{finding['id']}']")
            truth = self.run_js("hollowProbe.view.pose.truth.at")
            at = self.screen_of(truth)
            self.assertTrue(any(self.is_orange(c) for c in self.pixels(at, 12)), finding["id"])
            self.assertIn(finding["id"], self.run_js("document.getElementById('detail').textContent"))

    def test_space_layers_and_cut(self):
        self.open("space.html")
        shown = "hollowProbe.view.groups.filter(g => g.visible).length"
        every = self.run_js(shown)
        self.browser.click_on("[data-layer='machinery']")
        self.assertLess(self.run_js(shown), every)
        self.run_js("hollowProbe.view.setMarks({ ...hollowProbe.report.marks, shown: [] })")
        before = self.colours_of_all()
        self.run_js("(s => { s.value = 0.3; s.dispatchEvent(new Event('input')); })(document.getElementById('cut'))")
        self.assertNotEqual(self.colours_of_all(), before)
        self.run_js("hollowProbe.view.canvas.focus()")
        self.browser.key("PageUp")
        self.assertGreater(self.run_js("Number(document.getElementById('cut').value)"), 0.32)

    # Drills.

    def test_the_player(self):
        self.open("drill.html")
        now = "hollowProbe.report.now"
        self.browser.click_on("#forth")
        self.assertEqual(self.run_js(now), 1)
        self.browser.click_on("#back")
        self.assertEqual(self.run_js(now), 0)
        where = "hollowProbe.view.pose.anchor[0]"
        start = self.run_js(where)
        self.browser.click_on("#play")
        # As long as it takes: a busy machine draws few frames.
        self.run_js(f"new Promise((done, fail) => {{ const begun = Date.now(); const look = () => ({now} > 25 ? done() : Date.now() - begun > 20000 ? fail(new Error('it does not play')) : setTimeout(look, 20)); look(); }})")
        self.browser.click_on("#play")
        self.assertGreater(self.run_js(now), 5)
        self.assertGreater(self.run_js(where), start)
        stopped = self.run_js(now)
        self.run_js("new Promise(done => setTimeout(done, 150))")
        self.assertEqual(self.run_js(now), stopped)
        # Scrubbing: a click on the strips, then the keys.
        last = self.run_js("hollowProbe.report.ticks.count - 1")
        self.run_js("document.querySelector('.strips').scrollIntoView({block: 'center'})")
        x, y = self.run_js("(r => [r.x + hollowProbe.report.strips.x(180), r.y + 20])(document.querySelector('.strips').getBoundingClientRect())")
        self.browser.click(x, y)
        self.assertAlmostEqual(self.run_js(now), 180, delta=1)
        self.run_js("document.querySelector('.strips').focus()")
        self.browser.key("ArrowRight")
        self.assertAlmostEqual(self.run_js(now), 181, delta=1)
        self.browser.key("End")
        self.assertEqual(self.run_js(now), last)

    def test_the_body_is_drawn_where_the_drill_has_it(self):
        self.open("drill.html")
        rows = [json.loads(line) for line in self.timeline().splitlines()]
        for tick in (0, 100, 359):
            self.run_js(f"hollowProbe.report.seek({tick})")
            for mine, theirs in zip(self.run_js("hollowProbe.view.pose.anchor"), rows[tick]["anchor"]):
                self.assertAlmostEqual(mine, theirs, delta=1e-5)
            at = self.screen_of(rows[tick]["anchor"])
            self.assertTrue(any(sum(c) < 160 for c in self.pixels(at, 2)))

    def timeline(self):
        tool("drill", "crossing-first-try.drill.toml", "--timeline", self.path("ticks.jsonl"))
        with open(self.path("ticks.jsonl"), encoding="utf-8") as file:
            return file.read()

    def test_strips_mark_the_wrong_ticks(self):
        self.open("drill.html")
        rows = [json.loads(line) for line in self.timeline().splitlines()]
        wrong = [i for i, row in enumerate(rows) if row["signals"]["grounded"]["verdict"] == "missed_contact"]
        self.assertGreater(len(wrong), 50)
        self.browser.click_on("#forth")
        self.run_js("[...document.querySelectorAll('button')].find(b => b.textContent === 'wrong ›').click()")
        self.assertEqual(self.run_js("hollowProbe.report.now"), wrong[0])
        shown = self.run_js("""(() => { const { ticks } = hollowProbe.report; const list = [];
            for (let t = 0; t < ticks.count; ++t) if ((ticks.signals[t] & 7) === 2) list.push(t);
            return list; })()""")
        self.assertEqual(shown, wrong)

    def test_broken_expectations_lead_to_their_tick(self):
        self.open("drill.html")
        broken = self.json("drill.json")["drills"][0]["broken"]
        self.assertEqual(self.run_js("document.querySelectorAll('.expectations .broken').length"), len(broken))
        self.browser.click_on(".expectations .broken button")
        self.assertGreater(self.run_js("hollowProbe.report.now"), 10)
        self.browser.click_on("[data-report='1']")
        self.assertEqual(self.run_js("document.querySelectorAll('.expectations .broken').length"), 0)

    # What moves.

    def story(self, name):
        return os.path.join("..", "..", "examples", "stories", name)

    def test_a_pushed_crate_is_drawn_where_it_was_pushed(self):
        drill = os.path.join(self.story("32-pushing-a-crate"), "first.drill.toml")
        tool("drill", drill, "--html", self.path("crate.html"))
        self.open("crate.html")
        solids = self.run_js("hollowProbe.data.scenes[0].solids")
        moving = self.run_js("hollowProbe.report.moving.map(m => m.solid)")
        self.assertEqual(len(moving), 1)
        self.assertTrue(solids[moving[0]]["moves"])
        offset = f"hollowProbe.view.moved.get({moving[0]})[0]"
        self.run_js("hollowProbe.report.seek(0)")
        self.assertAlmostEqual(self.run_js(offset), 0.0, delta=0.05)
        self.run_js("hollowProbe.report.seek(hollowProbe.report.ticks.count - 1)")
        pushed = self.run_js(offset)
        self.assertGreater(pushed, 0.3)
        # The crate is there, and no longer where it was; the body stands behind it.
        outline = solids[moving[0]]["outlines"][0]
        middle = [sum(p[axis] for p in outline) / len(outline) for axis in (0, 1)]
        self.assertLess(self.run_js("hollowProbe.view.pose.anchor[0]"), middle[0] + pushed)
        there = self.pixels(self.screen_of([middle[0] + pushed, middle[1]]), 2)
        self.assertFalse(any(c == [255, 255, 255] for c in there))

    def test_a_lift_is_drawn_where_its_path_has_it(self):
        folder = next(name for name in sorted(os.listdir(os.path.join(DEMO, self.story("")))) if name.startswith("28-"))
        drill = os.path.join(self.story(folder), "first.drill.toml")
        tool("drill", drill, "--html", self.path("lift.html"))
        self.open("lift.html")
        heights = self.run_js("""(() => { const r = hollowProbe.report; const m = r.moving[0]; const list = [];
            for (let t = 0; t < r.ticks.count; ++t) list.push(m.offsets[2 * t + 1]);
            return list; })()""")
        self.assertGreater(max(heights) - min(heights), 0.5)
        # It moves at one pace or not at all.
        steps = {round(abs(b - a), 3) for a, b in zip(heights, heights[1:])}
        self.assertLessEqual(len([s for s in steps if s > 0.004]), 3, steps)
        # The body rides on it: their heights go together while it is true that it stands.
        apart = self.run_js("""(() => { const r = hollowProbe.report; const list = [];
            for (let t = 0; t < r.ticks.count; ++t) list.push(r.ticks.anchors[2 * t + 1] - r.moving[0].offsets[2 * t + 1]);
            return list; })()""")
        middle = sorted(apart)[len(apart) // 2]
        self.assertGreater(sum(abs(a - middle) < 0.1 for a in apart), len(apart) // 2)

    def test_a_hunt_plays_what_it_found(self):
        folder = self.story("35-climbing-by-running")
        drills = [name for name in sorted(os.listdir(os.path.join(DEMO, folder))) if name.endswith(".drill.toml")]
        found = None
        for drill in drills:
            words = tool("hunt", os.path.join(folder, drill), "--ticks", "200000", "--write", self.path("found.drill.toml"),
                         "--html", self.path("hunt.html"))
            self.open("hunt.html")
            self.assertIn(" played, ", self.run_js("document.querySelector('.suite pre').textContent"))
            if "found one" in words:
                found = drill
                self.assertGreater(self.run_js("document.querySelectorAll('.expectations .broken').length"), 0)
                self.assertIn("found.drill.toml", self.run_js("document.querySelector('.command code').textContent"))
            else:
                self.assertEqual(self.run_js("document.querySelectorAll('.expectations .broken').length"), 0)
        self.assertIsNotNone(found)

    # Suites.

    def test_a_failing_suite_opens_at_what_fails(self):
        with open(os.path.join(DEMO, "station.suite.toml"), encoding="utf-8") as file:
            text = file.read()
        self.assertIn("missed = ", text)
        suite = os.path.join(DEMO, "station.suite.toml")
        strict = "\n".join("missed = 0" if line.startswith("missed = ") else line for line in text.splitlines())
        for name in os.listdir(DEMO):
            if not os.path.exists(self.path(name)):
                os.symlink(os.path.abspath(os.path.join(DEMO, name)), self.path(name))
        os.remove(self.path(os.path.basename(suite)))
        with open(self.path(os.path.basename(suite)), "w", encoding="utf-8") as file:
            file.write(strict)
        made = subprocess.run([PROBE, "check", "station.suite.toml", "--html", "failing.html"], cwd=self.folder.name,
                              capture_output=True, text=True)
        self.assertEqual(made.returncode, 1, made.stderr)
        self.open("failing.html")
        self.assertEqual(self.run_js("document.querySelectorAll('.suite tr.broken').length"), 1)
        self.assertIn("1 of 4 fail", self.run_js("document.querySelector('.suite summary').textContent"))
        self.assertGreater(self.run_js("document.querySelectorAll('[data-finding]').length"), 5)

    # Where one is, and what is there besides verdicts.

    def test_the_address_brings_one_back(self):
        self.open("space.html")
        finding = self.json("space.json")["findings"][2]["id"]
        self.browser.click_on(f"[data-finding='{finding}']")
        self.run_js("(s => { s.value = 0.6; s.dispatchEvent(new Event('input')); })(document.getElementById('cut'))")
        self.browser.click_on("[data-layer='machinery']")
        self.browser.drag(self.view_at([300, 200]), self.view_at([340, 210]))
        self.browser.click_on("#theme")
        self.run_js("new Promise(done => setTimeout(done, 700))")
        address = self.run_js("location.href")
        eye = "[...hollowProbe.view.camera.position.toArray(), ...hollowProbe.view.controls.target.toArray()]"
        before = self.run_js(eye)
        self.browser.visit("about:blank")
        self.browser.visit(address)
        self.run_js("new Promise(done => setTimeout(done, 300))")
        for a, b in zip(self.run_js(eye), before):
            self.assertAlmostEqual(a, b, delta=1e-3 * (1 + abs(b)))
        self.assertEqual(self.run_js("hollowProbe.report.chosen.id"), finding)
        self.assertEqual(self.run_js("document.getElementById('cut').value"), "0.6")
        self.assertEqual(self.run_js("document.querySelector(\"[data-layer='machinery']\").getAttribute('aria-pressed')"), "false")
        self.assertEqual(self.run_js("document.documentElement.dataset.theme"), "dark")
        self.assertLess(self.run_js("hollowProbe.view.groups.filter(g => g.visible).length"), self.run_js("hollowProbe.view.groups.length"))

    def test_marks_are_gone_through_by_keys_gravest_first(self):
        for name in ("plane.html", "space.html"):
            self.open(name)
            self.run_js("hollowProbe.view.canvas.focus()")
            seen = []
            for _ in range(3):
                self.browser.key("n")
                seen.append(self.run_js("document.getElementById('detail').textContent"))
            self.assertTrue(all("Pose at" in told and "missed contact" in told for told in seen), name)
            self.assertEqual(len(set(seen)), 3)
            # The body went there.
            self.assertEqual(self.run_js("hollowProbe.view.pose.probes.length"), 0)
            self.browser.key("N")
            self.assertEqual(self.run_js("document.getElementById('detail').textContent"), seen[1])

    def test_a_level_whose_up_points_down_is_no_mirror_image(self):
        with open(self.path("down.level.toml"), "w", encoding="utf-8") as file:
            file.write('format = "hollow-probe level 1"\ndimensions = 2\nup = [0.0, -1.0]\nlayers = ["masonry", "grating", "debris"]\n'
                       '[[solid]]\nname = "floor"\nlayer = "masonry"\nbox = { center = [10.0, 0.5], size = [20.0, 1.0] }\n'
                       '[[solid]]\nname = "hatch"\nlayer = "grating"\nbox = { center = [15.0, -3.0], size = [4.0, 0.2] }\none_way = [0.0, -1.0]\n'
                       '[[area]]\nname = "loft"\nbox = { center = [15.0, -4.0], size = [3.0, 1.0] }\n'
                       '[[start]]\nname = "gate"\nat = [2.0, 0.0]\nheading = [1.0, 0.0]\n')
        tool("survey", self.path("down.level.toml"), "keeper.rig.toml", "--budget", "3000", "--html", self.path("down.html"))
        self.open("down.html")
        self.run_js("hollowProbe.view.fit()")
        gate, hatch, floor = self.screen_of([2.0, 0.0]), self.screen_of([15.0, -3.0]), self.screen_of([10.0, 0.5])
        self.assertLess(gate[0], hatch[0])
        self.assertLess(hatch[1], floor[1])
        # Heading along +x looks to the right; the arrows of the hatch point up.
        self.assertEqual(self.run_js("hollowProbe.view.solidAt([15.0, -3.0])"), 1)
        without = self.colours_of_all()
        self.browser.click_on("[data-names]")
        self.assertNotEqual(self.colours_of_all(), without)
        self.browser.click_on("[data-names]")
        self.assertEqual(self.colours_of_all(), without)

    def test_a_suite_leads_to_its_reports(self):
        self.open("check.html")
        self.assertEqual(self.run_js("document.querySelectorAll('.suite tbody tr').length"), 4)
        self.browser.click_on(".suite tbody tr:nth-child(3) button")
        self.assertTrue(self.run_js("document.querySelector('.strips') !== null"))


if __name__ == "__main__":
    if browser.find() is None:
        print("skipped: no chromium is installed here to look at pages with")
        sys.exit(SKIPPED)
    unittest.main(argv=sys.argv[:1] + sys.argv[3:], verbosity=1)
