"""The live bench as its users have it: a server, a page in a browser, files. Usage: live_browser_test.py TOOL DEMO"""
import json
import math
import os
import random
import re
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest

from browser import Browser, find

TOOL, DEMO = os.path.abspath(sys.argv[1]), os.path.abspath(sys.argv[2])


class Server:
    def __init__(self, folder, *arguments):
        self.process = subprocess.Popen([TOOL, "live", *arguments], cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
        self.address = self.process.stdout.readline().strip()
        self.host, self.port, self.token = re.fullmatch(r"http://([\d.]+):(\d+)/([0-9a-f]{32})/", self.address).groups()

    def send(self, data, patience=5.0):
        """Raw bytes, and what comes back."""
        with socket.create_connection((self.host, int(self.port)), timeout=patience) as line:
            line.sendall(data)
            try:
                line.shutdown(socket.SHUT_WR)
                answer = b""
                while part := line.recv(1 << 16):
                    answer += part
                    if len(answer) > 1 << 22:
                        break
            except OSError:
                pass
            return answer

    def get(self, path, host=None, origin=None, method="GET"):
        lines = [f"{method} {path} HTTP/1.1", f"Host: {host or f'127.0.0.1:{self.port}'}", "Connection: close"]
        if origin:
            lines.append(f"Origin: {origin}")
        return self.send(("\r\n".join(lines) + "\r\n\r\n").encode())

    def end(self):
        if self.process.poll() is None:
            self.process.send_signal(signal.SIGINT)
        code = self.process.wait(timeout=60)
        self.process.stdout.close()
        self.process.stderr.close()
        return code


class Live(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.browser = Browser() if find() else None

    @classmethod
    def tearDownClass(cls):
        if cls.browser:
            cls.browser.close()

    def setUp(self):
        self.folder = tempfile.mkdtemp()
        for name in os.listdir(DEMO):
            shutil.copy(os.path.join(DEMO, name), self.folder)
        self.server = None

    def tearDown(self):
        if self.server:
            self.assertEqual(self.server.end(), 0)
        shutil.rmtree(self.folder)

    def path(self, name):
        return os.path.join(self.folder, name)

    def text(self, name):
        with open(self.path(name), encoding="utf-8") as file:
            return file.read()

    def serve(self, *arguments):
        # Surveys of a few seconds show what the bench does as well as those of half a minute.
        self.server = Server(self.folder, *arguments, "--budget", "10000")
        return self.server

    def open(self, *arguments):
        if not self.browser:
            self.skipTest("there is no browser here")
        self.serve(*arguments)
        self.browser.server = "http://127.0.0.1"
        self.browser.complaints.clear()
        self.visit(self.server.address)

    def visit(self, address):
        self.browser.visit("about:blank")
        self.browser.visit(address)
        self.wait("hollowProbe.live.answer && hollowProbe.live.whole")

    def run_js(self, expression):
        return self.browser.run(expression)

    def wait(self, condition, seconds=60):
        end = time.time() + seconds
        while not self.run_js(f"Boolean({condition})"):
            self.assertLess(time.time(), end, condition)
            time.sleep(0.03)
        self.browser.settle()

    def clean(self):
        self.assertEqual(self.browser.complaints, [])

    def place(self, point):
        """Where a point of the level is on the page."""
        return self.run_js(f"(() => {{ const v = hollowProbe.live.view, r = v.canvas.getBoundingClientRect(), s = v.screenOf({json.dumps(point)}); return [r.x + s[0], r.y + s[1]]; }})()")

    def pose(self):
        return self.run_js("hollowProbe.live.answer.pose.anchor")

    # The server.

    def test_only_this_host_and_origin_with_the_token_are_answered(self):
        s = self.serve("culvert.level.toml", "keeper.rig.toml")
        good = s.get(f"/{s.token}/")
        self.assertIn(b"200 OK", good.split(b"\r\n")[0])
        self.assertIn(b"Content-Security-Policy", good)
        self.assertIn(b"hollow-probe live 1", good)
        for answer in (s.get("/"), s.get("/etc/passwd"), s.get(f"/{s.token}"), s.get(f"/{s.token}/x"), s.get(f"/{s.token}/../../etc/passwd"),
                       s.get(f"/{'0' * 32}/"), s.get(f"/{s.token[:-1]}/")):
            self.assertIn(b" 404 ", answer.split(b"\r\n")[0])
        for answer in (s.get(f"/{s.token}/", host="evil.example"), s.get(f"/{s.token}/", host=f"localhost:{s.port}"),
                       s.get(f"/{s.token}/", origin="http://evil.example"), s.get(f"/{s.token}/line", origin="http://evil.example")):
            self.assertIn(b" 403 ", answer.split(b"\r\n")[0])
        self.assertIn(b" 405 ", s.get(f"/{s.token}/", method="DELETE").split(b"\r\n")[0])
        self.assertNotIn(b"hollow-probe live 1", s.get(f"/{s.token}/", method="HEAD"))

    def test_ten_thousand_malformed_requests_end_nothing(self):
        s = self.serve("culvert.level.toml", "keeper.rig.toml")
        chance = random.Random(3)
        upgrade = (f"GET /{s.token}/line HTTP/1.1\r\nHost: 127.0.0.1:{s.port}\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n"
                   "Sec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\nSec-WebSocket-Version: 13\r\n\r\n").encode()
        plain = f"GET /{s.token}/ HTTP/1.1\r\nHost: 127.0.0.1:{s.port}\r\n\r\n".encode()
        sent = 0
        while sent < 10_000:
            # Several a connection, as fast as they go; what comes back is not waited for.
            data = b""
            for _ in range(20):
                request = bytearray(chance.choice([upgrade, plain, b"\x00" * 40, b"GET / HTTP/9.9\r\n\r\n", b"POST * \r\n"]))
                for _ in range(chance.randrange(1, 6)):
                    at = chance.randrange(len(request) + 1)
                    request[at:at + chance.randrange(3)] = bytes(chance.randrange(256) for _ in range(chance.randrange(4)))
                data += bytes(request)
                sent += 1
            try:
                with socket.create_connection((s.host, int(s.port)), timeout=5) as line:
                    line.sendall(data)
            except OSError:
                pass
        # Frames that are none, over lines that are.
        for _ in range(200):
            frame = bytes(chance.randrange(256) for _ in range(chance.randrange(2, 60)))
            try:
                with socket.create_connection((s.host, int(s.port)), timeout=5) as line:
                    line.sendall(upgrade + frame)
            except OSError:
                pass
        self.assertIsNone(s.process.poll())
        end = time.time() + 30
        while b"200 OK" not in s.get(f"/{s.token}/"):
            self.assertLess(time.time(), end)

    def test_a_port_in_use_and_files_that_are_none_are_refused(self):
        s = self.serve("culvert.level.toml", "keeper.rig.toml")
        for arguments, words in ((("culvert.level.toml", "keeper.rig.toml", "--port", s.port), "cannot listen"),
                                 (("culvert.level.toml", "nobody.rig.toml"), "nobody.rig.toml"),
                                 (("culvert.level.toml", "keeper-3d.rig.toml"), "dimensions"),
                                 (("culvert.level.toml", "keeper.rig.toml", "keeper.rig.toml"), "drill"),
                                 (("culvert.level.toml", "keeper.rig.toml", "--record", "no/folder/x.toml"), "cannot be written")):
            done = subprocess.run([TOOL, "live", *arguments], cwd=self.folder, capture_output=True, text=True, timeout=60)
            self.assertEqual(done.returncode, 2, done.stderr)
            self.assertIn(words, done.stderr)

    # The page.

    def test_the_body_follows_the_hand_and_verdicts_are_told(self):
        self.open("culvert.level.toml", "keeper-first-try.rig.toml")
        at = self.pose()
        start = self.place([at[0], at[1] + 0.9])
        self.browser.drag(start, [start[0] + 90, start[1] - 30], 12)
        self.wait("hollowProbe.live.line.slots.size === 0")
        scale = self.run_js("hollowProbe.live.view.scale")
        self.assertAlmostEqual(self.pose()[0], at[0] + 90 / scale, delta=2 / scale)
        self.assertAlmostEqual(self.pose()[1], 0.0, delta=1e-6)  # it rests
        self.browser.click_on("#rests")
        here = self.pose()
        start = self.place([here[0], here[1] + 0.9])
        self.browser.drag(start, [start[0], start[1] - 60], 8)
        self.wait("hollowProbe.live.line.slots.size === 0")
        self.assertAlmostEqual(self.pose()[1], 60 / scale, delta=2 / scale)
        self.assertIn("no ground", self.run_js("document.querySelector('.signals').textContent"))
        self.assertIn("hits nothing", self.run_js("document.querySelector('.readings').textContent"))
        # The same as the command line reads there.
        x, y = self.pose()
        done = subprocess.run([TOOL, "draw", "culvert.level.toml", "keeper-first-try.rig.toml", f"--at={x!r},{y!r}", "--heading=1,0", "--json", "-"],
                              cwd=self.folder, capture_output=True, text=True)
        self.assertEqual(json.loads(done.stdout)["probes"]["foot ray"]["on"], self.run_js("hollowProbe.live.answer.pose.probes[0].on"))
        self.clean()

    def test_a_field_is_pulled_undone_saved_and_seen_by_a_second_page(self):
        self.open("culvert.level.toml", "keeper-first-try.rig.toml")
        before = self.text("keeper-first-try.rig.toml")
        self.browser.click_on("[data-tab='rig']")
        self.browser.click_on("[data-owner='probe foot ray']")
        slider = "[data-key='reach'] input[type=range]"
        self.run_js(f"document.querySelector(\"{slider}\").focus()")
        self.browser.key("ArrowRight")
        self.wait("hollowProbe.live.state.revision > 1")
        self.assertFalse(self.run_js("hollowProbe.live.state.saved"))
        self.assertEqual(self.text("keeper-first-try.rig.toml"), before)
        self.run_js("document.activeElement.blur()")
        self.browser.key("z", modifiers=2)
        self.wait("hollowProbe.live.state.saved")
        self.assertEqual(self.run_js("hollowProbe.live.state.text"), before)
        digits = "[data-key='reach'] input[type=number]"
        self.run_js(f"(i => {{ i.value = '0.5'; i.dispatchEvent(new Event('change')); }})(document.querySelector(\"{digits}\"))")
        self.wait("!hollowProbe.live.state.saved")
        other = Browser(900, 700)
        try:
            other.server = "http://127.0.0.1"
            other.visit(self.server.address)
            end = time.time() + 20
            while not other.run("Boolean(globalThis.hollowProbe?.live?.answer)"):
                self.assertLess(time.time(), end)
                time.sleep(0.05)
            self.assertIn("reach = 0.5", other.run("hollowProbe.live.state.text"))
            other.run("hollowProbe.live.show('rig')")
            other.run(f"(i => {{ i.value = '0.6'; i.dispatchEvent(new Event('change')); }})(document.querySelector(\"{digits}\"))")
            self.wait("hollowProbe.live.state.text.includes('reach = 0.6')")
            self.assertEqual(self.run_js(f"document.querySelector(\"{digits}\").value"), "0.6")
            self.assertEqual(other.complaints, [])
        finally:
            other.close()
        self.browser.click_on("#save")
        self.wait("hollowProbe.live.state.saved")
        self.assertEqual(self.text("keeper-first-try.rig.toml"), before.replace("reach = 0.42", "reach = 0.6"))
        self.browser.click_on("[data-key='sees'] [aria-label='foot ray, sees: grating']")
        self.wait("hollowProbe.live.state.text.includes('grating')")
        self.clean()

    def test_handles_on_the_drawing_change_start_and_reach(self):
        self.open("culvert.level.toml", "keeper-first-try.rig.toml")
        self.browser.click_on("[data-tab='rig']")
        self.run_js("hollowProbe.live.view.flyTo([-12.5, -0.5], [-10.5, 2.5], 0.9)")
        self.browser.settle()
        self.browser.click_on("[data-owner='probe foot ray']")
        self.run_js("hollowProbe.live.view.canvas.scrollIntoView({block: 'center'})")
        scale = self.run_js("hollowProbe.live.view.scale")
        handle = lambda form: self.run_js(f"hollowProbe.live.hand.handles().find(h => h.form === '{form}').at")
        end = self.place(handle("diamond"))
        self.browser.drag(end, [end[0], end[1] + 0.2 * scale], 8)
        self.wait("hollowProbe.live.line.slots.size === 0")
        reach = float(re.search(r"reach = ([\d.]+)", self.run_js("hollowProbe.live.state.text")).group(1))
        self.assertAlmostEqual(reach, 0.62, delta=0.03)
        start = self.place(handle("square"))
        self.browser.drag(start, [start[0] + 0.1 * scale, start[1]], 8)
        self.wait("hollowProbe.live.line.slots.size === 0")
        self.assertAlmostEqual(self.run_js("hollowProbe.live.rig.probes[0].fields.find(f => f.key === 'from').value[0]"), 0.1, delta=0.03)
        # One pull, one step back.
        self.browser.click_on("#undo")
        self.browser.click_on("#undo")
        self.wait("hollowProbe.live.state.saved")
        self.clean()

    def test_a_fix_is_made_by_a_click_until_nothing_is_wrong(self):
        self.open("culvert.level.toml", "keeper-first-try.rig.toml")
        wrong = "hollowProbe.live.report.signals[0].poses[1] + hollowProbe.live.report.signals[0].poses[2]"
        before = self.run_js(wrong)
        for _ in range(6):
            if not self.run_js("Boolean(document.querySelector('[data-fix]:not([disabled])'))"):
                break
            revision = self.run_js("hollowProbe.live.state.revision")
            self.browser.click_on("[data-fix]:not([disabled])")
            self.wait(f"hollowProbe.live.state.revision > {revision} && hollowProbe.live.whole && !hollowProbe.live.changes.classList.contains('old')")
        self.assertEqual(self.run_js(wrong), 0)
        self.assertGreater(before, 0)
        self.assertIn("Nothing is wrong", self.run_js("document.querySelector('#changes').textContent"))
        # Saved, the survey of the command line says so, too.
        self.browser.click_on("#save")
        self.wait("hollowProbe.live.state.saved")
        done = subprocess.run([TOOL, "survey", "culvert.level.toml", "keeper-first-try.rig.toml", "--budget", "20000"], cwd=self.folder, capture_output=True)
        self.assertEqual(done.returncode, 0)
        self.clean()

    def test_what_is_played_is_the_drill_that_is_written(self):
        self.open("culvert.level.toml", "keeper-moving.rig.toml", "crossing.drill.toml", "--record", "played.drill.toml")
        self.run_js("hollowProbe.live.player.from.value = 'drill'")
        self.browser.click_on("#live-play")
        self.wait("hollowProbe.live.player.playing")
        # Keys are the player's, wherever the focus is: the view does not pan by them.
        self.run_js("hollowProbe.live.view.canvas.focus()")
        press = lambda kind, key, code: self.browser.call("Input.dispatchKeyEvent", type=kind, key=key, windowsVirtualKeyCode=code)
        # By ticks, not by the clock: a busy machine shows fewer frames a second than it plays ticks, or plays them late.
        played = lambda count: self.wait(f"hollowProbe.live.player.tape && hollowProbe.live.player.tape.count > {count}")
        press("keyDown", "ArrowRight", 39)
        played(25)
        press("keyDown", " ", 32)
        press("keyUp", " ", 32)
        played(50)
        press("keyUp", "ArrowRight", 39)
        played(55)
        self.browser.click_on("#live-play")
        self.wait("!hollowProbe.live.player.playing && !hollowProbe.live.player.asking")
        frames = self.run_js("hollowProbe.live.player.tape.frames.map(f => [f.tick, ...f.at, ...f.velocity])")
        self.assertGreater(len(frames), 40)
        self.assertGreater(frames[-1][1] - frames[0][1], 0.5)
        # Back and forth over what was played.
        self.browser.click_on(".step[aria-label='One tick back']")
        self.assertEqual(self.run_js("hollowProbe.live.player.now"), len(frames) - 2)
        self.browser.click_on(".step[aria-label='One tick on']")
        self.browser.click_on("#live-record")
        self.wait("hollowProbe.live.said.textContent.includes('written')")
        subprocess.run([TOOL, "drill", "played.drill.toml", "--timeline", "ticks.jsonl"], cwd=self.folder, capture_output=True)
        rows = [json.loads(line) for line in self.text("ticks.jsonl").splitlines()]
        self.assertEqual(len(rows), len(frames) - 1)
        for row, frame in zip(rows, frames[1:]):
            self.assertEqual([*row["anchor"], *row["velocity"]], frame[1:])
        self.assertIn("most = {", self.text("played.drill.toml"))  # the author's expectations
        self.clean()

    def test_files_changed_outside_are_taken_over_or_a_conflict(self):
        self.open("culvert.level.toml", "keeper-first-try.rig.toml")
        text = self.text("keeper-first-try.rig.toml")
        with open(self.path("keeper-first-try.rig.toml"), "w", encoding="utf-8") as file:
            file.write(text.replace("0.42", "0.47"))
        self.wait("hollowProbe.live.state.text.includes('0.47')")
        self.run_js("hollowProbe.live.edit({table: 'probe', name: 'foot ray', key: 'reach', value: 0.5, gesture: ''})")
        self.wait("!hollowProbe.live.state.saved")
        with open(self.path("keeper-first-try.rig.toml"), "w", encoding="utf-8") as file:
            file.flush()
            time.sleep(0.7)  # the bench looks at a file that is half written
            file.write(text)
        self.wait("hollowProbe.live.state.conflict !== null")
        told = self.run_js("document.querySelector('.conflict').textContent")
        self.assertIn("reach = 0.42", told)
        self.assertIn("reach = 0.5", told)
        self.run_js("[...document.querySelectorAll('.conflict button')].find(b => b.textContent.startsWith('Take')).click()")
        self.wait("hollowProbe.live.state.saved")
        self.assertEqual(self.run_js("hollowProbe.live.state.text"), text)
        self.clean()

    def test_the_address_holds_what_is_looked_at(self):
        self.open("culvert.level.toml", "keeper-first-try.rig.toml")
        self.run_js("hollowProbe.live.show('rig')")
        at = self.pose()
        start = self.place([at[0], at[1] + 0.9])
        self.browser.drag(start, [start[0] + 60, start[1]], 6)
        self.browser.wheel(*self.place([at[0], at[1] + 2]), -200)
        self.wait("hollowProbe.live.line.slots.size === 0")
        self.run_js("history.replaceState(null, '', '#'); hollowProbe.live.noteAddress()")
        self.wait("location.hash.includes('at=')")
        address = self.run_js("location.href")
        scale, x = self.run_js("hollowProbe.live.view.scale"), self.pose()[0]
        self.visit(address)
        self.assertAlmostEqual(self.pose()[0], x, delta=1e-5)
        self.assertAlmostEqual(self.run_js("hollowProbe.live.view.scale"), scale, delta=1e-3 * scale)
        self.assertEqual(self.run_js("hollowProbe.live.tab"), "rig")
        self.clean()

    def test_a_bench_that_ends_is_told(self):
        self.open("culvert.level.toml", "keeper.rig.toml")
        self.assertEqual(self.server.end(), 0)
        self.wait("hollowProbe.live.said.textContent.includes('ended')")
        self.assertIn("not saved", self.run_js("hollowProbe.live.said.textContent"))

    def type_in(self, selector, value):
        """As a user changes an input: its value, and that it changed."""
        self.run_js(f"(i => {{ i.value = {json.dumps(str(value))}; i.dispatchEvent(new Event('input')); i.dispatchEvent(new Event('change')); }})(document.querySelector({json.dumps(selector)}))")

    def test_the_bar_sets_drive_speed_memory_and_heading(self):
        self.open("culvert.level.toml", "keeper-whole.rig.toml")
        asked = lambda: self.run_js("(({velocity, drive, grounded, heading, stance}) => ({velocity, drive, grounded, heading, stance}))(hollowProbe.live.pose)")
        self.type_in("[aria-label='speed']", 3)
        self.type_in("[aria-label='up']", -2.5)
        self.assertEqual(asked()["velocity"], [3, -2.5])
        self.type_in("[aria-label='Drive']", -1)
        self.assertEqual(asked()["drive"], [-1, 0])
        self.run_js("[...document.querySelectorAll('.pose-bar .toggle')].find(b => b.textContent === 'remembers ground').click()")
        self.assertTrue(asked()["grounded"])
        self.browser.click_on("#turn")
        self.assertEqual(asked()["heading"], [-1, 0])
        self.type_in("[aria-label='Stance']", "crawling")
        self.wait("hollowProbe.live.answer.pose.stance === 'crawling'")
        # Up and down by keys, a twentieth of the body, and no longer at rest.
        at, size = self.pose(), self.run_js("hollowProbe.live.answer.pose.size")
        self.run_js("document.activeElement.blur()")
        for key, by in (("u", 1), ("u", 1), ("d", -1)):
            self.browser.key(key)
        self.wait("hollowProbe.live.line.slots.size === 0")
        self.assertAlmostEqual(self.pose()[1] - at[1], size / 20, delta=1e-9)
        self.assertEqual(self.run_js("document.querySelector('#rests').getAttribute('aria-pressed')"), "false")
        self.clean()

    def test_the_ruler_measures_and_moves_nothing(self):
        self.open("culvert.level.toml", "keeper-first-try.rig.toml")
        at = self.pose()
        self.browser.click_on("#ruler")
        start, end = self.place([at[0], at[1] + 0.5]), self.place([at[0] - 3, at[1] + 4.5])
        self.browser.drag(start, end, 6)
        numbers = [float(x) for x in re.findall(r"-?[\d.]+", self.run_js("hollowProbe.live.hand.rulerWords()"))]
        for got, wanted in zip(numbers, (5.0, -3.0, 4.0, 53.13)):
            self.assertAlmostEqual(got, wanted, delta=0.02 * abs(wanted))
        self.assertEqual(self.pose(), at)
        self.browser.click_on("#ruler")
        self.assertIsNone(self.run_js("hollowProbe.live.hand.ruler"))
        self.clean()

    def test_keys_are_bound_anew_and_a_gamepad_drives(self):
        self.open("culvert.level.toml", "keeper-moving.rig.toml")
        self.run_js("document.querySelector('details').open = true")
        self.browser.click_on("[data-binding='forward']")
        self.browser.key("e")
        self.assertEqual(self.run_js("document.querySelector('[data-binding=forward]').textContent"), "e")
        self.browser.click_on("#live-play")
        self.wait("hollowProbe.live.player.playing")
        self.browser.call("Input.dispatchKeyEvent", type="keyDown", key="e", windowsVirtualKeyCode=69)
        self.wait("hollowProbe.live.player.tape.frames.at(-1).velocity[0] > 1")
        self.browser.call("Input.dispatchKeyEvent", type="keyUp", key="e", windowsVirtualKeyCode=69)
        self.wait("hollowProbe.live.player.tape.frames.at(-1).velocity[0] === 0")
        self.run_js("navigator.getGamepads = () => [null, {axes: [-0.6, 0.1], buttons: [{pressed: true}]}]")
        self.wait("hollowProbe.live.player.tape.frames.at(-1).velocity[0] < -1")
        self.wait("hollowProbe.live.player.tape.frames.some(f => f.jumped)")
        # Held down it is one press.
        time.sleep(1.5)
        self.run_js("navigator.getGamepads = () => []")
        self.browser.click_on("#live-play")
        self.assertEqual(self.run_js("hollowProbe.live.player.tape.frames.filter(f => f.jumped).length"), 1)
        self.run_js("localStorage.clear()")
        self.clean()

    def test_settings_are_tuned_within_ends_and_taken(self):
        self.open("culvert.level.toml", "keeper-first-try.rig.toml")
        self.browser.click_on("[data-tab='tune']")
        self.browser.click_on("[data-free='probe.foot ray.reach']")
        self.type_in("[aria-label='foot ray.reach from']", 0.3)
        self.browser.click_on("#tune")
        self.wait("hollowProbe.live.said.textContent.includes(\"'to' of probe.foot ray.reach\")")
        self.type_in("[aria-label='foot ray.reach to']", 0.41)
        self.browser.click_on("#tune")
        self.wait("document.querySelector('#take-tuned') || hollowProbe.live.tuning.says.textContent.includes('Nothing better')")
        told = self.run_js("hollowProbe.live.tuning.says.textContent")
        if "Nothing better" not in told:
            self.browser.click_on("#take-tuned")
            self.wait("!hollowProbe.live.state.saved")
            reach = float(re.search(r"reach = ([\d.]+)", self.run_js("hollowProbe.live.state.text")).group(1))
            self.assertTrue(0.3 <= reach <= 0.41)
        # Choices, too.
        self.assertTrue(self.run_js("Boolean(document.querySelector(\"[data-free='probe.foot ray.sees']\"))"))
        self.clean()

    def test_every_other_control_does_what_it_says(self):
        self.open("culvert.level.toml", "keeper-first-try-moving.rig.toml", "crossing-first-try.drill.toml", "--record", "played.drill.toml")
        click = lambda words, within="": self.run_js(f"[...document.querySelectorAll('{within} button')].find(b => b.textContent === {json.dumps(words)}).click()")
        scale = lambda: self.run_js("hollowProbe.live.view.scale")
        text = lambda: self.run_js("hollowProbe.live.state.text")
        # The view.
        at = scale()
        click("+")
        self.assertAlmostEqual(scale(), 1.4 * at, delta=1e-6 * at)
        click("−")
        self.assertAlmostEqual(scale(), at, delta=1e-6 * at)
        click("Whole level")
        self.assertLess(scale(), at)
        self.run_js("document.querySelector('[data-layer=masonry]').click()")
        self.assertEqual(self.run_js("[...hollowProbe.live.view.hidden]"), [0])
        self.run_js("document.querySelector('[data-layer=masonry]').click()")
        self.run_js("document.querySelector('[data-names]').click()")
        self.assertTrue(self.run_js("hollowProbe.live.view.names"))
        self.browser.click_on("#theme")
        self.assertEqual(self.run_js("document.documentElement.dataset.theme"), "dark")
        # Probes.
        self.browser.click_on("[data-tab='rig']")
        self.type_in("[aria-label='Kind of the probe to add']", "zone")
        self.wait("document.querySelector('[data-owner=\"probe zone\"][aria-selected=true]')")
        self.assertIn('kind = "zone"', text())
        click("Copy", ".rig")
        self.wait("document.querySelector('[data-owner=\"probe zone 2\"][aria-selected=true]')")
        self.type_in("[aria-label='Name of probe zone 2']", "belly")
        self.wait("document.querySelector('[data-owner=\"probe belly\"]')")
        self.assertNotIn('"zone 2"', text())
        click("Remove", ".rig")
        self.wait("!hollowProbe.live.state.text.includes('belly')")
        undone = text()
        self.browser.click_on("#undo")
        self.wait("hollowProbe.live.state.text.includes('belly')")
        self.browser.click_on("#redo")
        self.wait("!hollowProbe.live.state.text.includes('belly')")
        self.assertEqual(text(), undone)
        # The text.
        self.browser.click_on("[data-tab='text']")
        self.run_js("hollowProbe.live.area.value = 'nonsense'")
        self.browser.click_on("#apply-text")
        self.wait("hollowProbe.live.said.textContent.includes(':1:')")
        self.assertEqual(text(), undone)
        click("As it is")
        self.assertEqual(self.run_js("hollowProbe.live.area.value"), undone)
        self.run_js("hollowProbe.live.area.value += '# by hand\\n'")
        self.browser.click_on("#apply-text")
        self.wait("hollowProbe.live.state.text.endsWith('# by hand\\n')")
        # Tuning is stopped.
        self.browser.click_on("[data-tab='tune']")
        self.run_js("[...document.querySelectorAll('[data-free]')].slice(0, 6).forEach(b => b.click())")
        self.browser.click_on("#tune")
        self.wait("hollowProbe.live.tuning.bar")
        self.browser.click_on("#stop-tuning")
        self.wait("hollowProbe.live.tuning.says.textContent.includes('stopped') || document.querySelector('#take-tuned')")
        # Play, tick by tick, and its end.
        self.type_in("[aria-label='Moved by']", "standard")
        self.type_in("[aria-label='Speed']", "0.1")
        self.browser.click_on(".step[aria-label='One tick on']")
        self.wait("hollowProbe.live.player.tape")
        for _ in range(3):
            self.browser.click_on(".step[aria-label='One tick on']")
        self.wait("hollowProbe.live.player.tape.count >= 4")
        click("Show as a drill")
        self.wait("hollowProbe.live.player.text.textContent.includes('hollow-probe drill 1')")
        self.assertNotIn("most", self.run_js("hollowProbe.live.player.text.textContent"))  # its own speeds, nobody's expectations
        click("Cut to what is wrong at this tick")
        self.wait("hollowProbe.live.said.textContent.includes('no signal is wrong')")
        self.browser.click_on("#live-stop")
        self.assertIsNone(self.run_js("hollowProbe.live.player.tape"))
        # What is here is kept against the file's.
        with open(self.path("keeper-first-try-moving.rig.toml"), "a", encoding="utf-8") as file:
            file.write("# by another hand\n")
        self.wait("hollowProbe.live.state.conflict !== null")
        click("Keep what is here")
        self.wait("hollowProbe.live.state.conflict === null")
        self.browser.click_on("#save")
        self.wait("hollowProbe.live.state.saved")
        self.assertNotIn("by another hand", self.text("keeper-first-try-moving.rig.toml"))
        self.browser.click_on("[data-tab='verdicts']")
        self.browser.click_on("#before-now")
        self.wait("hollowProbe.live.state.before.startsWith('as it was at change')")
        self.clean()

    def test_another_file_is_held_against_and_played_beside_and_a_hunt_goes_on(self):
        self.open("culvert.level.toml", "keeper-first-try-moving.rig.toml", "crossing-first-try.drill.toml", "--record", "found.drill.toml")
        self.browser.click_on("[data-tab='verdicts']")
        text = self.text("keeper-first-try.rig.toml").replace("reach = 0.42", "reach = 4.2")
        self.run_js(f"hollowProbe.live.holdAgainst(new File([{json.dumps(text)}], 'longer.rig.toml'))")
        self.wait("hollowProbe.live.state.before === 'longer.rig.toml'")
        self.browser.click_on("#beside")
        self.wait("hollowProbe.live.answer.before")
        self.browser.click_on("#live-play")
        self.wait("hollowProbe.live.player.tape && hollowProbe.live.player.tape.count > 40")
        self.browser.click_on("#live-play")
        reach = lambda which: self.run_js(f"(l => l.from[1] - l.limit[1])(hollowProbe.live.player.tape.frames.at(-1).{which}.probes[0].lines[0])")
        self.assertAlmostEqual(reach("pose"), 0.42, delta=1e-6)
        self.assertAlmostEqual(reach("before"), 4.2, delta=1e-6)
        self.browser.click_on("#hunt")
        self.wait("document.querySelector('#write-hunted')")
        self.browser.click_on("#write-hunted")
        self.wait("hollowProbe.live.said.textContent.includes('written')")
        done = subprocess.run([TOOL, "drill", "found.drill.toml"], cwd=self.folder, capture_output=True, text=True)
        self.assertEqual(done.returncode, 1, done.stdout)
        self.clean()

    def test_handles_and_ruler_in_space(self):
        self.open("pumphouse.level.toml", "keeper-3d.rig.toml")
        self.browser.click_on("[data-tab='rig']")
        self.run_js("hollowProbe.live.edit({table: 'probe', name: 'soles', key: 'reach', value: 0.6, gesture: ''})")
        self.wait("hollowProbe.live.answer.pose.probes[0].lines[0].limit[1] < -0.2")
        self.run_js("hollowProbe.live.view.flyTo([-2, 0, -0.5], [0, 2, 1.5], 0.9); hollowProbe.live.view.canvas.scrollIntoView({block: 'center'})")
        self.browser.settle()
        field = lambda key: self.run_js(f"hollowProbe.live.rig.probes[0].fields.find(f => f.key === '{key}').value")
        where = lambda form: self.run_js(f"(() => {{ const r = hollowProbe.live.view.canvas.getBoundingClientRect(), s = hollowProbe.live.hand.handles().find(h => h.form === '{form}').screen; return [r.x + s[0], r.y + s[1]]; }})()")
        # To where a reach of 1 would end on the screen.
        line = self.run_js("hollowProbe.live.answer.pose.probes[0].lines[0]")
        self.browser.drag(where("diamond"), self.place([line["from"][0], line["from"][1] - 1.0, line["from"][2]]), 8)
        self.wait("hollowProbe.live.line.slots.size === 0")
        self.assertAlmostEqual(field("reach"), 1.0, delta=0.02)
        heading = self.run_js("hollowProbe.live.answer.pose.heading")
        self.browser.drag(where("disc"), self.place([x + 0.5 * h for x, h in zip(line["from"], heading)]), 8)
        self.wait("hollowProbe.live.line.slots.size === 0")
        self.assertAlmostEqual(field("shape.ball.radius"), 0.5, delta=0.02)
        # The start goes in the plane that faces the eye.
        before = field("from")
        at = where("square")
        self.browser.drag(at, [at[0] + 30, at[1] - 20], 8)
        self.wait("hollowProbe.live.line.slots.size === 0")
        self.assertGreater(sum(abs(a - b) for a, b in zip(field("from"), before)), 0.05)
        self.assertEqual([round(a - b) for a, b in zip(where("square"), at)], [30, -20])
        # With Alt the body goes up and down.
        pose = self.pose()
        start = self.place([pose[0], pose[1] + 1.4, pose[2]])
        self.browser.call("Input.dispatchMouseEvent", type="mousePressed", x=start[0], y=start[1], button="left", clickCount=1, modifiers=1)
        end = self.place([pose[0], pose[1] + 1.9, pose[2]])
        self.browser.call("Input.dispatchMouseEvent", type="mouseMoved", x=end[0], y=end[1], button="left", buttons=1, modifiers=1)
        self.browser.call("Input.dispatchMouseEvent", type="mouseReleased", x=end[0], y=end[1], button="left", clickCount=1, modifiers=1)
        self.wait("hollowProbe.live.line.slots.size === 0")
        now = self.pose()
        self.assertAlmostEqual(now[1] - pose[1], 0.5, delta=0.05)
        self.assertAlmostEqual(now[0], pose[0], delta=1e-9)
        self.browser.click_on("#ruler")
        a, b = self.place([-1.7, 0.0, 0.9]), self.place([-0.4, 0.0, 0.2])
        self.browser.drag(a, b, 6)
        length = float(self.run_js("hollowProbe.live.hand.rulerWords()").split()[0])
        self.assertAlmostEqual(length, math.hypot(1.3, 0.7), delta=0.03)
        self.clean()

    def test_space(self):
        self.open("pumphouse.level.toml", "keeper-3d.rig.toml")
        at = self.pose()
        start = self.place([at[0], at[1] + 0.6, at[2]])
        self.browser.drag(start, [start[0] + 40, start[1] + 10], 8)
        self.wait("hollowProbe.live.line.slots.size === 0")
        now = self.pose()
        self.assertGreater(abs(now[0] - at[0]) + abs(now[2] - at[2]), 0.2)
        self.assertIn("ground", self.run_js("document.querySelector('.signals').textContent"))
        self.run_js("(s => { s.value = 40; s.dispatchEvent(new Event('input')); })(document.querySelector('#turn'))")
        self.wait("Math.abs(hollowProbe.live.answer.pose.heading[0] - Math.cos(40 * Math.PI / 180)) < 1e-6")
        # A body drawn anew holds no more than before.
        held = "hollowProbe.live.view.constructor.held().geometries"
        before = self.run_js(held)
        for i in range(30):
            self.run_js(f"hollowProbe.live.pose.at = [{now[0]} + 0.01 * {i}, {now[1]}, {now[2]}]; hollowProbe.live.ask()")
            self.wait("hollowProbe.live.line.slots.size === 0")
        self.assertLessEqual(self.run_js(held), before + 2)
        self.browser.click_on("#live-play")
        self.wait("hollowProbe.live.player.tape && hollowProbe.live.player.tape.count > 20")
        self.browser.click_on("#live-play")
        self.clean()


if __name__ == "__main__":
    if not find():
        print("no browser here: only the server is tested")
    unittest.main(argv=sys.argv[:1])
