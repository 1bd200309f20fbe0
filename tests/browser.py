"""A headless Chromium, driven over its debugging pipe."""
import base64
import itertools
import json
import os
import shutil
import subprocess
import tempfile
import time

FLAGS = ["--headless", "--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking",
         "--disable-component-update", "--disable-sync", "--disable-default-apps", "--disable-extensions",
         "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--hide-scrollbars", "--remote-debugging-pipe"]

# Notes what comes on to the page as the name of a value that there was no word for.
WATCH_WORDS = """
globalThis.slips = [];
new MutationObserver((changes) => {
  for (const change of changes) for (const node of change.type === "characterData" ? [change.target] : change.addedNodes) {
    const words = document.createTreeWalker(node, NodeFilter.SHOW_TEXT);
    for (let text = node.nodeType === Node.TEXT_NODE ? node : words.nextNode(); text; text = words.nextNode()) {
      if (["SCRIPT", "STYLE"].includes(text.parentNode?.nodeName)) continue;
      const slip = text.data.match(/.{0,40}(null|undefined|NaN|\\[object).{0,40}/)?.[0];
      if (slip) globalThis.slips.push(slip);
    }
  }
}).observe(document, { subtree: true, childList: true, characterData: true });
"""


def find():
    """The browser's path, or None."""
    return next((path for name in ("chromium", "chromium-browser") if (path := shutil.which(name))), None)


class Browser:
    """One page. Exceptions, console errors and requests for anything but files and data are kept in `complaints`."""

    def __init__(self, width=1280, height=800):
        self.folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        to_read, to_write = os.pipe(), os.pipe()
        # The browser reads from descriptor 3 and writes to 4.
        def place():
            os.dup2(to_read[0], 103)
            os.dup2(to_write[1], 104)
            os.dup2(103, 3)
            os.dup2(104, 4)
            os.set_inheritable(3, True)
            os.set_inheritable(4, True)
        self.process = subprocess.Popen([find(), *FLAGS, f"--user-data-dir={self.folder.name}", "about:blank"],
                                        preexec_fn=place, close_fds=False, stdout=subprocess.DEVNULL,
                                        stderr=subprocess.DEVNULL)
        os.close(to_read[0])
        os.close(to_write[1])
        self.into, self.out = to_read[1], to_write[0]
        self.numbers = itertools.count(1)
        self.rest = b""
        self.complaints = []
        self.server = None  # an address of this machine that may be asked, too
        self.loaded = False
        self.session = None
        target = self.call("Target.createTarget", url="about:blank")["targetId"]
        self.session = self.call("Target.attachToTarget", targetId=target, flatten=True)["sessionId"]
        for domain in ("Page", "Runtime", "Network", "Log"):
            self.call(domain + ".enable")
        self.call("Page.addScriptToEvaluateOnNewDocument", source=WATCH_WORDS)
        self.resize(width, height)

    def close(self):
        try:
            # Asked, it ends its children, too.
            self.session = None
            self.call("Browser.close")
        except (RuntimeError, OSError):
            pass
        try:
            self.process.wait(timeout=10)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()
        os.close(self.into)
        os.close(self.out)
        self.folder.cleanup()

    def _receive(self):
        while b"\0" not in self.rest:
            part = os.read(self.out, 1 << 16)
            if not part:
                raise RuntimeError("the browser has gone")
            self.rest += part
        message, self.rest = self.rest.split(b"\0", 1)
        return json.loads(message)

    def _note(self, event):
        method, params = event.get("method"), event.get("params", {})
        if method == "Page.loadEventFired":
            self.loaded = True
        elif method == "Runtime.exceptionThrown":
            details = params["exceptionDetails"]
            self.complaints.append("exception: " + details.get("exception", {}).get("description", details["text"]))
        elif method == "Runtime.consoleAPICalled" and params["type"] in ("error", "warning"):
            self.complaints.append("console: " + " ".join(str(a.get("value", a.get("description"))) for a in params["args"]))
        elif method == "Log.entryAdded" and params["entry"]["level"] == "error":
            self.complaints.append("log: " + params["entry"]["text"])
        elif method == "Network.requestWillBeSent":
            url = params["request"]["url"]
            if not url.startswith(("file:", "data:", "blob:", "about:", self.server or "file:")):
                self.complaints.append("request: " + url)

    def call(self, method, **params):
        number = next(self.numbers)
        message = {"id": number, "method": method, "params": params}
        if self.session:
            message["sessionId"] = self.session
        os.write(self.into, json.dumps(message).encode() + b"\0")
        while True:
            answer = self._receive()
            if answer.get("id") == number:
                if "error" in answer:
                    raise RuntimeError(f"{method}: {answer['error']}")
                return answer["result"]
            self._note(answer)

    def resize(self, width, height, dark=False):
        self.call("Emulation.setDeviceMetricsOverride", width=width, height=height, deviceScaleFactor=1, mobile=False)
        self.call("Emulation.setEmulatedMedia",
                  features=[{"name": "prefers-color-scheme", "value": "dark" if dark else "light"}])

    def open(self, path):
        self.visit("file://" + os.path.abspath(path))

    def visit(self, url):
        self.loaded = False
        self.call("Page.navigate", url=url)
        while not self.loaded:
            self._note(self._receive())
        self.settle()

    def run(self, expression):
        """The value of an expression in the page; promises are waited for."""
        result = self.call("Runtime.evaluate", expression=expression, returnByValue=True, awaitPromise=True)
        if "exceptionDetails" in result:
            raise RuntimeError(result["exceptionDetails"].get("exception", {}).get("description", expression))
        return result["result"].get("value")

    def settle(self):
        """Lets the page draw. A value that was never made into words is complained of."""
        self.run("new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(done))))")
        for slip in self.run("globalThis.slips?.splice(0) ?? []"):
            self.complaints.append("on the page: " + slip)

    def click(self, x, y):
        for kind in ("mousePressed", "mouseReleased"):
            self.call("Input.dispatchMouseEvent", type=kind, x=x, y=y, button="left", clickCount=1)
        self.settle()

    def click_on(self, selector):
        self.run(f"document.querySelector({json.dumps(selector)}).scrollIntoView({{block: 'center'}})")
        box = self.run(f"(r => [r.x + r.width / 2, r.y + r.height / 2])(document.querySelector({json.dumps(selector)}).getBoundingClientRect())")
        self.click(*box)

    def drag(self, start, end, steps=5):
        self.call("Input.dispatchMouseEvent", type="mousePressed", x=start[0], y=start[1], button="left", clickCount=1)
        for i in range(1, steps + 1):
            at = [start[k] + (end[k] - start[k]) * i / steps for k in (0, 1)]
            self.call("Input.dispatchMouseEvent", type="mouseMoved", x=at[0], y=at[1], button="left", buttons=1)
        self.call("Input.dispatchMouseEvent", type="mouseReleased", x=end[0], y=end[1], button="left", clickCount=1)
        self.settle()

    def wheel(self, x, y, by):
        self.call("Input.dispatchMouseEvent", type="mouseWheel", x=x, y=y, deltaX=0, deltaY=by)
        time.sleep(0.05)
        self.settle()

    def key(self, key, modifiers=0):
        codes = {"ArrowLeft": 37, "ArrowUp": 38, "ArrowRight": 39, "ArrowDown": 40, " ": 32, "Enter": 13, "Tab": 9}
        code = codes.get(key, ord(key[0].upper()))
        text = {"text": "\r" if key == "Enter" else key} if len(key) == 1 or key == "Enter" else {}
        self.call("Input.dispatchKeyEvent", type="keyDown", key=key, windowsVirtualKeyCode=code, modifiers=modifiers, **text)
        self.call("Input.dispatchKeyEvent", type="keyUp", key=key, windowsVirtualKeyCode=code, modifiers=modifiers)
        self.settle()

    def picture(self, path=None):
        """A PNG of what is seen."""
        data = base64.b64decode(self.call("Page.captureScreenshot", format="png")["data"])
        if path:
            with open(path, "wb") as file:
                file.write(data)
        return data
