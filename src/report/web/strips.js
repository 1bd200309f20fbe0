// A drill's strips: keys, truth and signals over time, wrong ticks marked, the present tick as a line.
import { make, onceAFrame } from "./dom.js";
import { colors, drawMark, verdictColor } from "./look.js";

const rowHeight = 22;
export const labelWidth = 132;

export class Strips {
  /** `ticks` as the drill view unpacks them; `onseek(tick)` when one is chosen. */
  constructor(report, ticks, onseek) {
    this.report = report;
    this.ticks = ticks;
    this.now = 0;
    this.rows = [];
    report.keys.forEach((key, k) => this.rows.push({ name: `key ${key}`, on: (t) => (ticks.pressed[t] >> k) & 1, kind: "key" }));
    this.rows.push({ name: "jumps given", on: (t) => ticks.jumped[t], kind: "key" });
    report.signals.forEach((signal, s) => {
      const of = (t) => ticks.signals[t * report.signals.length + s];
      this.rows.push({ name: `truth: ${signal.claims}`, on: (t) => of(t) & 2, kind: "truth" });
      this.rows.push({ name: signal.name, on: (t) => of(t) & 1, kind: "signal",
        wrong: (t) => ((of(t) & 3) === 2 ? 1 : (of(t) & 3) === 1 ? 2 : -1), undecided: (t) => of(t) & 4 });
    });
    this.canvas = make("canvas", { tabindex: 0, role: "slider", "aria-label": "Time", "aria-valuemin": 0, "aria-valuemax": ticks.count - 1,
      class: "strips", style: `height:${this.rows.length * rowHeight + 26}px` });
    this.element = make("div", { class: "strip-holder" }, this.canvas);
    this.redraw = onceAFrame(() => this.draw());
    let held = false;
    const seek = (event) => {
      const part = (event.offsetX - labelWidth) / Math.max(this.width - labelWidth - 10, 1);
      onseek(Math.round(Math.min(Math.max(part, 0), 1) * (ticks.count - 1)));
    };
    this.canvas.addEventListener("pointerdown", (event) => {
      held = true;
      this.canvas.setPointerCapture(event.pointerId);
      seek(event);
    });
    this.canvas.addEventListener("pointermove", (event) => { if (held) seek(event); });
    this.canvas.addEventListener("pointerup", () => { held = false; });
    this.canvas.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10 }[event.key];
      const to = { Home: 0, End: ticks.count - 1 }[event.key] ?? (by === undefined ? undefined : this.now + by);
      if (to === undefined) return;
      event.preventDefault();
      onseek(Math.min(Math.max(to, 0), ticks.count - 1));
    });
    new ResizeObserver(() => this.resize()).observe(this.element);
  }

  resize() {
    this.ratio = window.devicePixelRatio || 1;
    this.width = this.element.clientWidth;
    this.canvas.width = this.width * this.ratio;
    this.canvas.height = (this.rows.length * rowHeight + 26) * this.ratio;
    this.redraw();
  }

  setNow(tick) {
    this.now = tick;
    this.canvas.setAttribute("aria-valuenow", tick);
    this.canvas.setAttribute("aria-valuetext", `${this.ticks.seconds[tick].toFixed(3)} seconds`);
    this.redraw();
  }

  x(tick) {
    return labelWidth + ((this.width - labelWidth - 10) * tick) / Math.max(this.ticks.count - 1, 1);
  }

  draw() {
    if (!this.width) return;
    const context = this.canvas.getContext("2d");
    const look = colors();
    context.setTransform(this.ratio, 0, 0, this.ratio, 0, 0);
    context.fillStyle = look.ground;
    context.fillRect(0, 0, this.width, this.canvas.height);
    context.font = "12px system-ui, sans-serif";
    this.rows.forEach((row, r) => this.drawRow(context, row, 4 + r * rowHeight));
    const bottom = 4 + this.rows.length * rowHeight;
    context.fillStyle = look.faint;
    context.textAlign = "center";
    const last = this.ticks.seconds[this.ticks.count - 1];
    for (let i = 0; i <= 6; ++i) {
      const tick = Math.round((i * (this.ticks.count - 1)) / 6);
      context.textAlign = i === 0 ? "left" : i === 6 ? "right" : "center";
      context.fillText(`${this.ticks.seconds[tick].toFixed(last < 10 ? 2 : 1)} s`, this.x(tick), bottom + 14);
    }
    context.fillStyle = look.body;
    context.fillRect(this.x(this.now) - 0.75, 0, 1.5, bottom + 2);
  }

  drawRow(context, row, y) {
    const look = colors();
    const { count } = this.ticks;
    context.textAlign = "left";
    context.fillStyle = row.kind === "truth" ? look.faint : look.ink;
    let name = row.name;
    while (context.measureText(name).width > labelWidth - 12 && name.length > 4) name = name.slice(0, -2).trimEnd() + "…";
    context.fillText(name, 4, y + 13);
    context.fillStyle = look.fills[2];
    context.fillRect(this.x(0), y + 16, this.x(count - 1) - this.x(0), 1);
    context.fillStyle = row.kind === "truth" ? look.faint : row.kind === "key" ? look.body : look.probe;
    for (let t = 0; t < count; ++t) {
      if (!row.on(t)) continue;
      let end = t;
      while (end + 1 < count && row.on(end + 1)) ++end;
      context.fillRect(this.x(t), y + 5, Math.max(this.x(end + 1) - this.x(t), 1.5), 11);
      t = end;
    }
    if (!row.wrong) return;
    for (let t = 0; t < count; ++t) {
      const verdict = row.undecided(t) ? -1 : row.wrong(t);
      if (verdict < 0) continue;
      let end = t;
      while (end + 1 < count && !row.undecided(end + 1) && row.wrong(end + 1) === verdict) ++end;
      context.fillStyle = verdictColor(verdict);
      context.fillRect(this.x(t), y + 18, Math.max(this.x(end + 1) - this.x(t), 1.5), 2.5);
      drawMark(context, verdict, (this.x(t) + this.x(end + 1)) / 2, y + 10, 4.5);
      t = end;
    }
  }
}
