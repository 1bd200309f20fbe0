// The hand on the drawing: the body, the chosen probe's start, end and size, or the ruler.
import { plain } from "./dom.js";
import { colors } from "./look.js";

const step = (x) => Number(x.toPrecision(4));
const minus = (a, b) => a.map((x, i) => x - b[i]);
const dot = (a, b) => a.reduce((sum, x, i) => sum + x * b[i], 0);

export class Hand {
  /** `bench`: { D, view, scene, rig, panel, tab, player, answer, edit(change), goAt(at), floats() }. */
  constructor(bench) {
    this.bench = bench;
    this.ruler = null;
    this.gestures = 0;
  }

  /** Takes hold of what is at a place of the view; null where that is nothing of its own. */
  grab(point, screen) {
    const { bench } = this;
    if (bench.player.playing) return null;
    if (this.ruler) return this.measure(point, screen);
    const handle = this.handles().find((h) => h.screen && Math.hypot(h.screen[0] - screen[0], h.screen[1] - screen[1]) < 9);
    if (handle) {
      const gesture = `handle ${this.gestures++}`;
      const aside = minus(handle.screen, handle.true);
      return { move: (now, event) => handle.drag(minus([event.offsetX, event.offsetY], aside), event.shiftKey, gesture), end: () => {} };
    }
    if (!bench.answer || !bench.view.touchesBody(screen)) return null;
    if (bench.player.tape) bench.player.end();
    return this.holdBody(point, screen);
  }

  /** The body goes with the pointer, in 3D to the surface under it; with Alt up and down. */
  holdBody(point, screen) {
    const { bench } = this;
    const at = [...bench.pose.at];
    const { up } = bench.scene;
    const began = bench.view.alongAt(...screen, at, up);
    return { move: (now, event) => {
      if (event.altKey) {
        const by = bench.view.alongAt(event.offsetX, event.offsetY, at, up) - began;
        bench.floats();
        bench.goAt(at.map((x, i) => x + by * up[i]));
      } else if (now !== null) {
        bench.goAt(bench.D === 2 ? at.map((x, i) => x + now[i] - point[i]) : now);
      }
    }, end: () => {} };
  }

  measure(point, screen) {
    const { view } = this.bench;
    const from = point ?? view.pointAt(...screen, this.bench.pose.at);
    this.ruler = { from, to: from };
    view.redraw();
    return { move: (now, event) => {
      this.ruler = { from, to: now ?? view.pointAt(event.offsetX, event.offsetY, this.ruler.to) };
      view.redraw();
    }, end: () => {} };
  }

  /** Forward, up and (3D) right, as a rig file counts. */
  frame() {
    const { heading } = this.bench.answer.pose;
    const { up } = this.bench.scene;
    return this.bench.D === 2 ? [heading, up]
      : [heading, up, [heading[1] * up[2] - heading[2] * up[1], heading[2] * up[0] - heading[0] * up[2], heading[0] * up[1] - heading[1] * up[0]]];
  }

  /** What of the chosen probe can be dragged: its start (square), its end (diamond) and its shape's size (disc). */
  handles() {
    const { bench } = this;
    const pose = bench.answer?.pose;
    const { table, name } = bench.panel.now;
    if (!pose || table !== "probe" || bench.tab !== "rig" || bench.player.tape) return [];
    const number = bench.rig.probes.findIndex((p) => p.name === name);
    const fields = new Map((bench.rig.probes[number]?.fields ?? []).map((f) => [f.key, f.value]));
    const line = pose.probes[number]?.lines[0];
    if (!line) return [];
    const { view } = bench;
    const frame = this.frame();
    const body = (way) => frame.map((axis) => dot(way, axis));
    const edit = (key, value, gesture) => bench.edit({ table, name, key, value, gesture });
    const list = [];
    if (fields.get("from")) {
      list.push({ at: line.from, form: "square", drag: (place, turned, gesture) =>
        edit("from", body(minus(view.pointAt(...place, line.from), pose.anchor)).map(step), gesture) });
    }
    const reach = ["reach", "reach.airborne", "reach.base"].find((key) => typeof fields.get(key) === "number");
    const long = line.limit ? Math.hypot(...minus(line.limit, line.from)) : 0;
    if (reach && long > 0) {
      const along = minus(line.limit, line.from).map((x) => x / long);
      list.push({ at: line.limit, form: "diamond", drag: (place, turns, gesture) => {
        if (turns) {
          const there = body(minus(view.pointAt(...place, line.limit), line.from));
          const length = Math.hypot(...there);
          if (length > 1e-6) edit("along", there.map((x) => Number((x / length).toFixed(4))), gesture);
        } else {
          const value = step(view.alongAt(...place, line.from, along));
          if (value > 0) edit(reach, value, gesture);
        }
      } });
    }
    const size = ["shape.ball.radius", "shape.capsule.radius", "shape.box.size"].find((key) => fields.get(key) !== null && fields.has(key));
    if (size) {
      const value = fields.get(size);
      const half = Array.isArray(value) ? value[0] / 2 : value;
      list.push({ at: line.from.map((x, i) => x + half * frame[0][i]), form: "disc", drag: (place, turned, gesture) => {
        const now = view.alongAt(...place, line.from, frame[0]);
        if (now > 0) edit(size, Array.isArray(value) ? [step(2 * now), ...value.slice(1)] : step(now), gesture);
      } });
    }
    return this.apart(list.map((h) => ({ ...h, true: view.screenOf(h.at) })));
  }

  /** Handles that would cover one another are drawn beside. */
  apart(handles) {
    const taken = [];
    for (const handle of handles) {
      handle.screen = handle.true;
      while (handle.screen && taken.some((other) => Math.hypot(...minus(other, handle.screen)) < 14)) handle.screen = [handle.screen[0] + 15, handle.screen[1]];
      if (handle.screen) taken.push(handle.screen);
    }
    return handles;
  }

  draw(context) {
    const look = colors();
    for (const { screen, form } of this.handles()) {
      if (!screen) continue;
      const [x, y] = screen;
      context.fillStyle = look.ground;
      context.strokeStyle = look.ink;
      context.lineWidth = 2;
      context.beginPath();
      if (form === "square") context.rect(x - 5, y - 5, 10, 10);
      else if (form === "disc") context.arc(x, y, 5, 0, 2 * Math.PI);
      else { context.moveTo(x, y - 7); context.lineTo(x + 7, y); context.lineTo(x, y + 7); context.lineTo(x - 7, y); context.closePath(); }
      context.fill();
      context.stroke();
    }
    if (this.ruler?.from) this.drawRuler(context);
  }

  /** How long it is, how far across and up, and how steep. */
  rulerWords() {
    const way = minus(this.ruler.to, this.ruler.from);
    const long = Math.hypot(...way);
    const rise = dot(way, this.bench.scene.up);
    const across = this.bench.D === 2 ? dot(way, this.bench.view.right) : Math.sqrt(Math.max(long * long - rise * rise, 0));
    return `${plain(long)}  (${plain(across)} across, ${plain(rise)} up)  ${plain((Math.atan2(rise, Math.abs(across)) * 180) / Math.PI)}°`;
  }

  drawRuler(context) {
    const { view } = this.bench;
    const look = colors();
    const [a, b] = [view.screenOf(this.ruler.from), view.screenOf(this.ruler.to)];
    if (!a || !b) return;
    for (const [color, wide] of [[look.ground, 4], [look.ink, 1.5]]) {
      context.strokeStyle = color;
      context.lineWidth = wide;
      context.beginPath();
      context.moveTo(...a);
      context.lineTo(...b);
      context.stroke();
    }
    const words = this.rulerWords();
    context.font = "bold 12px system-ui, sans-serif";
    context.textAlign = "left";
    const width = context.measureText(words).width;
    const [x, y] = [Math.max(Math.min(b[0] + 10, view.width - width - 8), 4), Math.max(b[1] - 8, 16)];
    context.fillStyle = look.ground;
    context.fillRect(x - 3, y - 13, width + 6, 18);
    context.fillStyle = look.ink;
    context.fillText(words, x, y);
  }
}
