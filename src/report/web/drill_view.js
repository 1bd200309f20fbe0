// A drill played back: the body moving through the level, strips beneath, what was expected and what broke.
import { bytes, floats, make, plain, shorts, toggle } from "./dom.js";
import { makeStage, repaint } from "./stage.js";
import { labelWidth, Strips } from "./strips.js";

function unpack(packed) {
  return { count: packed.count, seconds: floats(packed.seconds), anchors: floats(packed.anchors), velocities: floats(packed.velocities),
           headings: floats(packed.headings), stances: bytes(packed.stances), signals: bytes(packed.signals), pressed: shorts(packed.pressed),
           jumped: bytes(packed.jumped), lines: floats(packed.lines), met: bytes(packed.met), probesOn: bytes(packed.probes_on), solids: shorts(packed.solids) };
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
    this.readings = make("ol", { class: "readings", id: "readings", "aria-label": "Readings at this tick" });
    this.element = make("div", { class: "report drill" },
      make("div", { class: "main" }, this.stage.bar, this.stage.element, controls, this.strips.element, curves),
      make("div", { class: "side" }, this.expectations(), make("details", { open: true }, make("summary", {}, "Readings at this tick"), this.readings), this.figures()));
    this.element.addEventListener("keydown", (event) => {
      if (event.key !== " " || event.target.tagName === "BUTTON" || event.target.tagName === "SELECT") return;
      event.preventDefault();
      this.toggle();
    });
    this.curves = curves;
    requestAnimationFrame(() => this.drawCurves());
    this.seek(0);
    const D = this.D;
    const low = Array(D).fill(Infinity);
    const high = Array(D).fill(-Infinity);
    this.ticks.anchors.forEach((x, i) => {
      low[i % D] = Math.min(low[i % D], x - 1.2 * report.size);
      high[i % D] = Math.max(high[i % D], x + 1.2 * report.size);
    });
    // All of the way, unless the body would be too small to be seen: then as near as it takes, and it is followed.
    requestAnimationFrame(() => {
      if (!this.view || this.view.shown) return;
      this.view.flyTo(low, high, 0.9);
      if (D !== 2 || !this.view.width || report.size * this.view.scale >= 90) return;
      const at = this.at(this.ticks.anchors, this.now);
      const half = [this.view.width, this.view.height].map((pixels) => (0.5 * pixels * report.size) / 90);
      const middle = at.map((x, i) => x + 0.5 * report.size * scene.up[i]);
      const box = [0, 1].map((i) => half[0] * Math.abs(this.view.right[i]) + half[1] * Math.abs(scene.up[i]));
      this.view.flyTo(middle.map((x, i) => x - box[i]), middle.map((x, i) => x + box[i]), 1);
    });
  }

  repaint() {
    repaint(this.stage, this.scene);
    this.strips.redraw();
    if (this.chart) this.drawCurves();
  }

  /** What is looked at, in words of an address, and back. */
  whereabouts() {
    return { tick: this.now };
  }

  standAt(words) {
    const tick = Number(words.tick ?? NaN);
    if (!Number.isInteger(tick) || tick < 0 || tick >= this.ticks.count) return;
    // Shown where the address says, not where the body is.
    const follows = this.follows;
    this.follows = !words.view;
    this.seek(tick);
    this.follows = follows;
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
      shape: turned.body.probes[probe.number], lines: [] }));
    report.lines.forEach((line, k) => {
      const base = (tick * report.lines.length + k) * 4 * D;
      const point = (part) => [...ticks.lines.subarray(base + part * D, base + part * D + D)];
      if (Number.isNaN(ticks.lines[base])) return;
      const met = ticks.met[tick * report.lines.length + k];
      const normal = point(2);
      const to = point(1);
      probes[line.probe].lines.push({ from: point(0), to, limit: point(3), solid: ticks.solids[tick * report.lines.length + k], hit: met ? { point: to, normal, on: probes[line.probe].on } : null });
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
    this.chart?.draw();
    this.readings.replaceChildren(...pose.probes.map((probe) => make("li", { class: probe.on ? "on" : "" }, this.wordsOf(probe))));
    const speed = Math.hypot(...this.at(this.ticks.velocities, tick));
    this.place.textContent = `tick ${tick}, ${this.ticks.seconds[tick].toFixed(3)} s, at (${pose.anchor.map(plain).join(", ")}), ${plain(speed)} a second`;
  }

  /** What a probe read at the tick shown. */
  wordsOf(probe) {
    const line = probe.lines.find((one) => one.hit) ?? probe.lines[0];
    const end = probe.on ? "on" : "off";
    if (!line) return `${probe.name}: not read here`;
    const away = (a, b) => Math.hypot(...a.map((x, i) => x - b[i]));
    if (!line.hit) return `${probe.name}: ${probe.lines.length > 1 ? `${probe.lines.length} lines` : `nothing within ${plain(away(line.from, line.limit))}`}, ${end}`;
    const solid = this.scene.solids[line.solid]?.name;
    const rise = line.hit.normal.reduce((sum, x, i) => sum + x * this.scene.up[i], 0);
    const angle = (Math.acos(Math.min(1, Math.max(-1, rise))) * 180) / Math.PI;
    return `${probe.name}: ${solid ? `“${solid}”` : "a solid"} after ${plain(away(line.from, line.to))}, normal ${plain(angle)}° from up, ${end}`;
  }

  keepInView(anchor) {
    if (this.D !== 2) return;
    const [x, y] = this.view.screenOf(anchor);
    const { width, height } = this.view;
    const by = (value, size) => (value < 0.1 * size ? 0.5 * size - value : value > 0.9 * size ? 0.5 * size - value : 0);
    const [across, down] = [by(x, width), by(y, height)];
    if (across || down) this.view.pan(across, down);
  }

  drawCurves() {
    this.chart?.destroy();
    const canvas = this.curves.firstChild;
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
    // As wide as the strips above, which begin after their labels; the present tick is a line through both.
    const left = (scale) => { scale.width = labelWidth / 2; };
    const cursor = { id: "cursor", afterDraw: (chart) => {
      const x = chart.scales.x.getPixelForValue(this.ticks.seconds[this.now]);
      chart.ctx.fillStyle = style.getPropertyValue("--body");
      chart.ctx.fillRect(x - 0.75, chart.chartArea.top, 1.5, chart.chartArea.bottom - chart.chartArea.top);
    } };
    this.chart = new Chart(canvas, {
      type: "line",
      plugins: [cursor],
      data: { datasets: [line("height", heights, "--probe", "h"), line("speed", speeds, "--body", "v")] },
      options: { animation: false, maintainAspectRatio: false, parsing: false, normalized: true, color: ink, layout: { padding: { right: 10 } },
        scales: { x: { type: "linear", min: this.ticks.seconds[0], max: this.ticks.seconds[this.ticks.count - 1], ticks: { display: false }, grid: { display: false } },
                  h: { position: "left", afterFit: left, ticks: { color: ink }, title: { display: true, text: "height", color: ink } },
                  v: { position: "left", afterFit: left, ticks: { color: ink }, grid: { drawOnChartArea: false }, title: { display: true, text: "speed", color: ink } } },
        plugins: { legend: { labels: { color: ink, boxWidth: 24 } } } },
    });
  }
}
