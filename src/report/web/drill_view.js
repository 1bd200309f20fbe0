// A drill played back: the body moving through the level, strips beneath, what was expected and what broke.
import { bytes, floats, make, plain, shorts, toggle } from "./dom.js";
import { makeStage, repaint } from "./stage.js";
import { Strips } from "./strips.js";

function unpack(packed) {
  return { count: packed.count, seconds: floats(packed.seconds), anchors: floats(packed.anchors), velocities: floats(packed.velocities),
           headings: floats(packed.headings), stances: bytes(packed.stances), signals: bytes(packed.signals), pressed: shorts(packed.pressed),
           jumped: bytes(packed.jumped), lines: floats(packed.lines), met: bytes(packed.met), probesOn: bytes(packed.probes_on) };
}

export class DrillView {
  constructor(report, scene) {
    this.report = report;
    this.scene = scene;
    this.D = scene.dimensions;
    this.ticks = unpack(report.ticks);
    this.moving = report.moving.map((m) => ({ solid: m.solid, offsets: floats(m.offsets) }));
    this.stage = makeStage(scene);
    this.view = this.stage.view;
    this.strips = new Strips(report, this.ticks, (tick) => this.seek(tick));
    this.now = 0;
    this.timer = 0;
    this.speed = 1;
    this.follows = true;
    this.place = make("output", { class: "hint", id: "place" });
    this.playing = make("button", { type: "button", id: "play", onclick: () => this.toggle() }, "Play");
    const speed = make("select", { "aria-label": "Speed", onchange: () => { this.speed = Number(speed.value); } },
      [["0.1", "1/10 speed"], ["0.25", "1/4 speed"], ["1", "full speed"], ["2", "twice"]].map(([value, words]) => make("option", { value, selected: value === "1" }, words)));
    const follow = toggle("follow the body", true, (pressed) => { this.follows = pressed; });
    const controls = make("div", { class: "bar", role: "toolbar", "aria-label": "Player" },
      make("button", { type: "button", "aria-label": "To the start", onclick: () => this.seek(0) }, "|‹"),
      make("button", { type: "button", id: "back", "aria-label": "One tick back", onclick: () => this.step(-1) }, "‹ tick"),
      this.playing,
      make("button", { type: "button", id: "forth", "aria-label": "One tick on", onclick: () => this.step(1) }, "tick ›"),
      make("button", { type: "button", onclick: () => this.toWrong(-1) }, "‹ wrong"),
      make("button", { type: "button", onclick: () => this.toWrong(1) }, "wrong ›"),
      speed, follow, this.place);
    const curves = make("div", { class: "chart", style: "height:170px" }, make("canvas", { role: "img", "aria-label": "Height and speed over time" }));
    this.element = make("div", { class: "report drill" },
      make("div", { class: "side" }, this.expectations(), this.figures()),
      make("div", { class: "main" }, this.stage.bar, this.stage.element, controls, this.strips.element, curves));
    this.element.addEventListener("keydown", (event) => {
      if (event.key !== " " || event.target.tagName === "BUTTON" || event.target.tagName === "SELECT") return;
      event.preventDefault();
      this.toggle();
    });
    requestAnimationFrame(() => this.drawCurves(curves.firstChild));
    this.seek(0);
    const D = this.D;
    const low = Array(D).fill(Infinity);
    const high = Array(D).fill(-Infinity);
    this.ticks.anchors.forEach((x, i) => {
      low[i % D] = Math.min(low[i % D], x - 1.2 * report.size);
      high[i % D] = Math.max(high[i % D], x + 1.2 * report.size);
    });
    requestAnimationFrame(() => this.view?.flyTo(low, high, 0.9));
  }

  repaint() {
    repaint(this.stage, this.scene);
    this.strips.redraw();
  }

  expectations() {
    const rows = this.report.expectations.map((e) => make("li", { class: e.broken ? "broken" : "kept" },
      e.broken
        ? make("button", { type: "button", onclick: () => this.seek(e.broken.tick) }, make("b", {}, "✗ "), e.broken.words)
        : make("span", {}, "✓ ", e.words)));
    const broken = this.report.expectations.filter((e) => e.broken).length;
    return make("section", {}, make("h3", {}, broken ? `${broken} of ${rows.length} expectations broken` : `${rows.length} expectations kept`),
      make("ul", { class: "plain expectations" }, rows), make("p", { class: "command" }, "Reproduce: ", make("code", {}, this.report.command)));
  }

  figures() {
    return make("details", { open: true }, make("summary", {}, "Figures"), make("table", { class: "figures" }, make("tbody", {},
      this.report.figures.map(([name, value]) => make("tr", {}, make("th", { scope: "row" }, name), make("td", {}, plain(value)))))));
  }

  step(by) {
    this.pause();
    this.seek(Math.min(Math.max(this.now + by, 0), this.ticks.count - 1));
  }

  toWrong(by) {
    const signals = this.report.signals.length;
    const wrong = (t) => {
      for (let s = 0; s < signals; ++s) {
        const of = this.ticks.signals[t * signals + s];
        if (!(of & 4) && ((of & 3) === 1 || (of & 3) === 2)) return true;
      }
      return false;
    };
    for (let t = this.now + by; t >= 0 && t < this.ticks.count; t += by) {
      if (wrong(t)) return this.step(t - this.now);
    }
  }

  toggle() {
    if (this.timer) {
      this.pause();
      return;
    }
    if (this.now >= this.ticks.count - 1) this.seek(0);
    this.playing.textContent = "Pause";
    let before = performance.now();
    let seconds = this.ticks.seconds[this.now];
    const go = (time) => {
      seconds += (this.speed * (time - before)) / 1000;
      before = time;
      let tick = this.now;
      while (tick + 1 < this.ticks.count && this.ticks.seconds[tick + 1] <= seconds) ++tick;
      if (tick !== this.now) this.seek(tick);
      if (tick + 1 >= this.ticks.count) this.pause();
      else this.timer = requestAnimationFrame(go);
    };
    this.timer = requestAnimationFrame(go);
  }

  pause() {
    cancelAnimationFrame(this.timer);
    this.timer = 0;
    this.playing.textContent = "Play";
  }

  at(list, tick) {
    return [...list.subarray(this.D * tick, this.D * tick + this.D)];
  }

  poseAt(tick) {
    const { D, ticks, report } = this;
    const heading = this.at(ticks.headings, tick);
    const stance = report.stances[ticks.stances[tick]];
    const turned = stance.bodies.reduce((best, body) => {
      const along = body.heading.reduce((sum, x, i) => sum + x * heading[i], 0);
      return along > best.along ? { along, body } : best;
    }, { along: -Infinity, body: null });
    const probes = report.probes.map((probe) => ({ name: probe.name, on: ticks.probesOn[tick * report.probes.length + probe.number], numbered: false,
      shape: null, lines: [] }));
    report.lines.forEach((line, k) => {
      const base = (tick * report.lines.length + k) * 3 * D;
      const point = (part) => [...ticks.lines.subarray(base + part * D, base + part * D + D)];
      if (Number.isNaN(ticks.lines[base])) return;
      const met = ticks.met[tick * report.lines.length + k];
      const normal = point(2);
      const to = point(1);
      probes[line.probe].lines.push({ from: point(0), to, limit: to, hit: met ? { point: to, normal, on: probes[line.probe].on } : null });
    });
    return { anchor: this.at(ticks.anchors, tick), heading, body: turned.body.shape, size: report.size, probes, truth: null };
  }

  seek(tick) {
    this.now = tick;
    const pose = this.poseAt(tick);
    if (this.view) {
      const moved = new Map(this.moving.map((m) => [m.solid, [...m.offsets.subarray(this.D * tick, this.D * tick + this.D)]]));
      if (moved.size) this.view.setMoved(moved);
      this.view.setPose(pose);
      if (this.follows && this.view.width) this.keepInView(pose.anchor);
    }
    this.strips.setNow(tick);
    const speed = Math.hypot(...this.at(this.ticks.velocities, tick));
    this.place.textContent = `tick ${tick}, ${this.ticks.seconds[tick].toFixed(3)} s, at (${pose.anchor.map(plain).join(", ")}), ${plain(speed)} a second`;
  }

  keepInView(anchor) {
    if (this.D !== 2) return;
    const [x, y] = this.view.screenOf(anchor);
    const { width, height } = this.view;
    const by = (value, size) => (value < 0.1 * size ? 0.5 * size - value : value > 0.9 * size ? 0.5 * size - value : 0);
    const [across, down] = [by(x, width), by(y, height)];
    if (across || down) this.view.pan(across, down);
  }

  drawCurves(canvas) {
    const style = getComputedStyle(document.documentElement);
    const ink = style.getPropertyValue("--ink");
    const up = this.scene.up;
    const heights = [];
    const speeds = [];
    for (let t = 0; t < this.ticks.count; ++t) {
      heights.push({ x: this.ticks.seconds[t], y: this.at(this.ticks.anchors, t).reduce((sum, x, i) => sum + x * up[i], 0) });
      speeds.push({ x: this.ticks.seconds[t], y: Math.hypot(...this.at(this.ticks.velocities, t)) });
    }
    const line = (label, data, name, axis) => ({ label, data, borderColor: style.getPropertyValue(name), borderWidth: 1.5, pointRadius: 0,
      yAxisID: axis, borderDash: axis === "v" ? [5, 3] : [] });
    new Chart(canvas, {
      type: "line",
      data: { datasets: [line("height", heights, "--probe", "h"), line("speed", speeds, "--body", "v")] },
      options: { animation: false, maintainAspectRatio: false, parsing: false, normalized: true, color: ink,
        scales: { x: { type: "linear", max: this.ticks.seconds[this.ticks.count - 1], ticks: { color: ink }, title: { display: true, text: "seconds", color: ink } },
                  h: { position: "left", ticks: { color: ink }, title: { display: true, text: "height", color: ink } },
                  v: { position: "right", ticks: { color: ink }, grid: { drawOnChartArea: false }, title: { display: true, text: "speed", color: ink } } },
        plugins: { legend: { labels: { color: ink, boxWidth: 24 } } } },
    });
  }
}
