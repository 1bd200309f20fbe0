// Playing by hand: keys or a gamepad drive the body, ticks come from the bench, and what was played can be scrubbed.
import { make, plain, toggle } from "./dom.js";
import { Strips } from "./strips.js";

const standardKeys = { forward: "ArrowRight", backward: "ArrowLeft", away: "ArrowUp", near: "ArrowDown", jump: " ", stance: "c" };
const mostTicks = 7200;

/** Ticks in the arrays that strips read, grown as they come. */
class Tape {
  constructor(signals) {
    this.signals = signals;
    this.frames = [];
  }

  get count() { return this.frames.length; }

  strips() {
    const { frames } = this;
    const count = Math.max(frames.length, 1);
    const width = this.signals;
    const signals = new Uint8Array(count * width);
    frames.forEach((frame, t) => frame.signals.forEach((bits, s) => { signals[t * width + s] = bits & 8 ? bits | 4 : bits; }));
    return { count, seconds: Float32Array.from(frames, (f) => f.seconds), signals, pressed: Uint16Array.from(frames, (f) => f.pressed),
             jumped: Uint8Array.from(frames, (f) => (f.jumped ? 1 : 0)) };
  }
}

export class Player {
  /** `bench`: { line, D, rig(), pose(), beside(), show(frame), over(), say(words), hello, view() }. */
  constructor(bench) {
    this.bench = bench;
    this.keys = { ...standardKeys, ...JSON.parse(localStorage.getItem("hollow-probe keys") ?? "{}") };
    this.down = new Set();
    this.presses = [];
    this.playing = false;
    this.tape = null;
    this.now = 0;
    this.speed = 1;
    this.shapes = new Map();
    this.build();
  }

  build() {
    this.start = make("button", { type: "button", id: "live-play", onclick: () => (this.playing ? this.pause() : this.go()) }, "Play");
    this.stop = make("button", { type: "button", id: "live-stop", disabled: true, onclick: () => this.end() }, "End");
    const step = (by) => make("button", { type: "button", class: "step", "aria-label": by > 0 ? "One tick on" : "One tick back", onclick: () => this.step(by) }, by > 0 ? "tick ›" : "‹ tick");
    const speed = make("select", { "aria-label": "Speed", onchange: () => { this.speed = Number(speed.value); } },
      [["0.1", "1/10 speed"], ["0.25", "1/4 speed"], ["0.5", "half speed"], ["1", "full speed"]].map(([v, w]) => make("option", { value: v, selected: v === "1" }, w)));
    this.by = make("select", { "aria-label": "Moved by" }, this.bench.hello.drill ? make("option", { value: "drill" }, `as in ${this.bench.hello.drill}`) : null,
      make("option", { value: "standard" }, "slide, own speeds"));
    this.from = make("select", { "aria-label": "Starts" }, make("option", { value: "here" }, "from here"),
      this.bench.hello.drill ? make("option", { value: "drill" }, "from the drill's start") : null);
    this.place = make("output", { class: "hint", id: "live-place" });
    this.bar = make("div", { class: "bar", role: "toolbar", "aria-label": "Play" }, this.start, step(-1), step(1), this.stop, speed, this.by, this.from, this.place);
    this.strips = make("div", { class: "live-strips" });
    this.keep = make("div", { class: "bar" });
    this.text = make("pre", { class: "drill-text", tabindex: 0, role: "region", "aria-label": "The drill's text" });
    this.bindings = make("details", {}, make("summary", {}, "Keys"), this.keyTable());
    this.element = make("section", { class: "play" }, this.bar, this.strips, this.keep, this.text, this.bindings);
  }

  keyTable() {
    const words = { forward: this.bench.D === 3 ? "right" : "to the right", backward: this.bench.D === 3 ? "left" : "to the left", away: "away", near: "nearer", jump: "jump", stance: "next stance" };
    const shown = this.bench.D === 3 ? Object.keys(words) : Object.keys(words).filter((k) => k !== "away" && k !== "near");
    return make("div", { class: "fields" }, shown.map((what) => {
      const button = make("button", { type: "button", "data-binding": what, onclick: () => {
        button.textContent = "press a key …";
        button.addEventListener("keydown", (event) => {
          event.preventDefault();
          event.stopPropagation();
          this.keys[what] = event.key;
          localStorage.setItem("hollow-probe keys", JSON.stringify(this.keys));
          button.textContent = named(event.key);
        }, { once: true });
      } }, named(this.keys[what]));
      return make("div", { class: "field" }, make("span", { class: "key" }, words[what]), button);
    }));
  }

  /** Begins, or goes on. */
  async go() {
    if (!this.tape) {
      const question = { ask: "play", by: this.by.value };
      if (this.from.value === "here") question.pose = this.bench.pose();
      const answer = await this.bench.line.ask(question).catch((error) => { this.bench.say(error.message); return null; });
      if (!answer) return;
      this.rate = answer.tick_rate;
      this.keyNames = answer.keys;
      this.shapes.clear();
      this.told = undefined;
      this.presses = [];
      this.tape = new Tape(this.bench.rig().signals.length);
      this.take(answer.frames);
      this.stop.disabled = false;
      this.drawKeep();
    }
    if (this.now < this.tape.count - 1) this.seek(this.tape.count - 1);
    this.playing = true;
    // Keys drive the body now, not the control that was used last.
    document.activeElement?.blur?.();
    this.start.textContent = "Pause";
    this.element.dispatchEvent(new Event("begins"));
    this.owed = 0;
    this.asking = false;
    this.before = performance.now();
    requestAnimationFrame((time) => this.run(time));
  }

  pause() {
    this.playing = false;
    this.start.textContent = "Play on";
    this.drawStrips();
  }

  end() {
    this.pause();
    this.tape = null;
    this.start.textContent = "Play";
    this.stop.disabled = true;
    this.strips.replaceChildren();
    this.keep.replaceChildren();
    this.text.textContent = "";
    this.place.textContent = "";
    this.bench.over();
  }

  run(time) {
    if (!this.playing) return;
    this.owed = Math.min(this.owed + ((time - this.before) / 1000) * this.speed * this.rate, 20);
    this.before = time;
    if (this.owed >= 1 && !this.asking) {
      const count = Math.floor(this.owed);
      this.owed -= count;
      this.ask(count);
    }
    requestAnimationFrame((next) => this.run(next));
  }

  async ask(count) {
    this.asking = true;
    try {
      const answer = await this.bench.line.ask({ ask: "ticks", count, cues: this.cues(), beside: this.bench.beside() });
      if (this.tape) this.take(answer.frames);
    } catch (error) {
      this.pause();
      this.bench.say(error.message);
    }
    this.asking = false;
  }

  /** What the player does now, where it is otherwise than before. */
  cues() {
    const cues = this.presses;
    this.presses = [];
    const drive = this.drive();
    if (JSON.stringify(drive) !== JSON.stringify(this.told)) {
      cues.unshift({ drive });
      this.told = drive;
    }
    return cues;
  }

  drive() {
    const held = (what) => (this.down.has(this.keys[what]) ? 1 : 0);
    const pad = [...(navigator.getGamepads?.() ?? [])].find((p) => p);
    const dead = (x) => (Math.abs(x) < 0.15 ? 0 : x);
    let across = held("forward") - held("backward");
    let away = held("away") - held("near");
    if (pad) {
      across += dead(pad.axes[0] ?? 0);
      away -= dead(pad.axes[1] ?? 0);
      const jumps = pad.buttons[0]?.pressed ?? false;
      if (jumps && !this.padJumps) this.presses.push({ press: "jump" });
      this.padJumps = jumps;
    }
    return this.bench.view().driveOf(across, away);
  }

  /** Whether a key is one of the player's. */
  keydown(event) {
    if (!this.playing || event.repeat) return this.playing && Object.values(this.keys).includes(event.key);
    const what = Object.keys(this.keys).find((key) => this.keys[key] === event.key);
    if (!what) return false;
    this.down.add(event.key);
    if (what === "jump") this.presses.push({ press: "jump" });
    if (what === "stance") {
      const { stances } = this.bench.rig();
      const now = this.tape.frames.at(-1).stance;
      this.presses.push({ stance: stances[(stances.indexOf(now) + 1) % stances.length] });
    }
    return true;
  }

  keyup(event) {
    this.down.delete(event.key);
  }

  async step(by) {
    if (!this.tape) {
      await this.go();
      this.pause();
      return;
    }
    if (this.playing) this.pause();
    if (by > 0 && this.now >= this.tape.count - 1) await this.ask(1);
    else this.seek(Math.min(Math.max(this.now + by, 0), this.tape.count - 1));
    this.drawStrips();
  }

  take(frames) {
    for (const frame of frames) {
      for (const pose of [frame.pose, frame.before]) {
        if (!pose) continue;
        if (pose.shapes) this.shapes.set(pose.shape_key, pose.shapes);
        const shapes = this.shapes.get(pose.shape_key);
        pose.body = shapes.body;
        pose.probes.forEach((probe, i) => { probe.shape = shapes.probes[i]; });
      }
      this.tape.frames.push(frame);
    }
    if (this.tape.count > mostTicks) this.tape.frames.splice(0, this.tape.count - mostTicks);
    this.seek(this.tape.count - 1);
    this.stripsAge = (this.stripsAge ?? 0) + 1;
    if (this.stripsAge % 6 === 1) this.drawStrips();
  }

  seek(t) {
    this.now = t;
    const frame = this.tape.frames[t];
    this.place.textContent = `tick ${frame.tick}, ${frame.seconds.toFixed(3)} s, at (${frame.at.map(plain).join(", ")}), ${plain(Math.hypot(...frame.velocity))} a second`;
    this.bench.show(frame);
    this.strip?.setNow(Math.min(t, this.strip.ticks.count - 1));
  }

  drawStrips() {
    if (!this.tape) return;
    const ticks = this.tape.strips();
    const report = { keys: this.keyNames.map((k) => k), signals: this.bench.rig().signals.map((s) => ({ name: s.name, claims: s.claims ?? "" })) };
    const strip = new Strips(report, ticks, (t) => {
      if (this.playing) this.pause();
      this.seek(t);
    });
    strip.rows = strip.rows.filter((row) => row.name !== "truth: ");
    this.strip = strip;
    this.strips.replaceChildren(strip.element);
    strip.setNow(Math.min(this.now, ticks.count - 1));
  }

  drawKeep() {
    const { record } = this.bench.hello;
    const show = (question) => this.bench.line.ask({ ask: "drill", ...question }).then((answer) => {
      this.text.textContent = answer.text;
      this.bench.say(answer.written ? `written to ${answer.written}` : "");
    }, (error) => this.bench.say(error.message));
    const to = () => ({ to: this.tape.frames[this.now].tick });
    this.hunting = make("output", { class: "hint", id: "hunting" });
    this.huntStop = make("button", { type: "button", id: "stop-hunting", hidden: true, onclick: () => this.bench.line.ask({ ask: "stop_hunting" }) }, "Stop the hunt");
    const hunt = () => this.bench.line.ask({ ask: "hunt", from: this.tape.frames[this.now].tick }).then(() => { this.huntStop.hidden = false; }, (error) => this.bench.say(error.message));
    this.keep.replaceChildren(
      make("button", { type: "button", onclick: () => show({ ...to() }) }, "Show as a drill"),
      make("button", { type: "button", onclick: () => show({ ...to(), shortened: true }) }, "Cut to what is wrong at this tick"),
      record ? make("button", { type: "button", id: "live-record", onclick: () => show({ ...to(), write: true }) }, "Write") : "",
      record ? make("button", { type: "button", onclick: () => show({ ...to(), write: true, shortened: true }) }, "Write, cut") : "",
      make("button", { type: "button", id: "hunt", title: "What the player does from this tick on is searched for what breaks the drill's expectations; without any, for a wrong tick", onclick: hunt }, "Hunt on from here"), this.huntStop, this.hunting);
  }

  /** News of a hunt: how far it is, or the drill it found. */
  hearHunt({ tell, data }) {
    if (!this.hunting) return;
    if (tell === "hunting") {
      this.hunting.replaceChildren(`hunting: ${data.drills} drills, nearest to a limit ${Math.round(100 * Math.min(data.nearest, 1))} %`, make("progress", { max: 1, value: data.done, "aria-label": "Part done" }));
      return;
    }
    this.huntStop.hidden = true;
    this.hunting.replaceChildren(data.refused ?? `found in ${data.drills} ${data.drills === 1 ? "drill" : "drills"}: ${data.words}`);
    if (data.refused) return;
    this.text.textContent = data.text;
    if (!this.bench.hello.record) return;
    this.hunting.append(" ", make("button", { type: "button", id: "write-hunted", onclick: () => this.bench.line.ask({ ask: "write_hunted" })
      .then((answer) => this.bench.say(`written to ${answer.written}`), (error) => this.bench.say(error.message)) }, "Write what was found"));
  }
}

function named(key) {
  return { " ": "Space", ArrowLeft: "←", ArrowRight: "→", ArrowUp: "↑", ArrowDown: "↓" }[key] ?? key;
}

/** The verdict of a signal's bits at a tick. */
export function tickVerdict(bits) {
  if (bits & 12) return bits & 8 ? 5 : 4;
  return [3, 2, 1, 0][bits & 3];
}
