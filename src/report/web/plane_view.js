// The level in two dimensions, on a canvas: pan, zoom, layers, verdict marks, and a body with its probes.
import { make, onceAFrame, plain, roundStep } from "./dom.js";
import { colors, drawMark, gravity, layerPattern, markStamp, nextMark, paintOrder } from "./look.js";
import { drawSigns } from "./signs.js";

export class PlaneView {
  constructor(scene) {
    this.scene = scene;
    this.up = scene.up;
    // A level whose up points down the axis, as in pictures, is drawn as the picture is: not mirrored.
    this.right = scene.up[1] < 0 ? [-scene.up[1], scene.up[0]] : [scene.up[1], -scene.up[0]];
    this.canvas = make("canvas", { tabindex: 0, role: "img", class: "view",
      "aria-label": "Side view of the level. Arrow keys pan, plus and minus zoom, 0 shows all, n goes to the next mark." });
    this.element = make("div", { class: "stage" }, this.canvas);
    this.hidden = new Set();
    this.moved = new Map();
    this.marks = null;
    this.pose = null;
    this.center = [0, 0];
    this.scale = 1;
    this.onpick = null;
    /** `grab(point, [x, y])` may take hold of what is there: { move(point, event), end() }; else the view pans. */
    this.grab = null;
    this.onhover = null;
    /** Whether keys are another's just now. */
    this.leavesKeys = null;
    /** Drawn over everything else, each with (context, view). */
    this.overlays = [];
    this.redraw = onceAFrame(() => this.draw());
    this.lay();
    this.listen();
    new ResizeObserver(() => this.resize()).observe(this.element);
  }

  flat(p) {
    return [p[0] * this.right[0] + p[1] * this.right[1], p[0] * this.up[0] + p[1] * this.up[1]];
  }

  /** Where a point of the level is on the canvas, in CSS pixels. */
  screenOf(p) {
    const [x, y] = this.flat(p);
    return [this.width / 2 + this.scale * (x - this.center[0]), this.height / 2 - this.scale * (y - this.center[1])];
  }

  /** The point of the level at a place of the canvas. */
  levelOf(x, y) {
    const u = this.center[0] + (x - this.width / 2) / this.scale;
    const v = this.center[1] - (y - this.height / 2) / this.scale;
    return [u * this.right[0] + v * this.up[0], u * this.right[1] + v * this.up[1]];
  }

  /** The drive that a player asks for, to the right on the screen and away: 2D knows no away. */
  driveOf(across) {
    const part = Math.max(-1, Math.min(1, across));
    return this.right.map((x) => x * part + 0);
  }

  /** The number of the solid drawn at a point, the last of several; null for none. */
  solidAt(point) {
    const [x, y] = this.flat(point);
    let found = null;
    this.scene.solids.forEach((solid, number) => {
      if (this.hidden.has(solid.layer)) return;
      const [u, v] = this.flat(solid.moves ? this.moved.get(number) ?? [0, 0] : [0, 0]);
      for (const outline of solid.outlines) {
        let inside = false;
        for (let i = 0, k = outline.length - 1; i < outline.length; k = i++) {
          const a = this.flat(outline[i]);
          const b = this.flat(outline[k]);
          if ((a[1] > y - v) !== (b[1] > y - v) && x - u < ((b[0] - a[0]) * (y - v - a[1])) / (b[1] - a[1]) + a[0]) inside = !inside;
        }
        if (inside) found = number;
      }
    });
    return found;
  }

  /** Outlines once, as paths of the level's own coordinates: those that stand still in one path a layer. */
  lay() {
    this.still = new Map();
    this.moving = new Map();
    const low = [Infinity, Infinity];
    const high = [-Infinity, -Infinity];
    const extended = (list, layer, thin) => {
      if (!list.has(layer)) list.set(layer, { areas: new Path2D(), lines: new Path2D() });
      return list.get(layer)[thin ? "lines" : "areas"];
    };
    this.scene.solids.forEach((solid, number) => {
      for (const outline of solid.outlines) {
        const list = solid.moves ? this.movingOf(number) : this.still;
        const path = extended(list, solid.layer, !solid.closed);
        outline.forEach((point, i) => {
          const [x, y] = this.flat(point);
          if (i === 0) path.moveTo(x, y);
          else path.lineTo(x, y);
          [low[0], low[1]] = [Math.min(low[0], x), Math.min(low[1], y)];
          [high[0], high[1]] = [Math.max(high[0], x), Math.max(high[1], y)];
        });
        if (solid.closed) path.closePath();
      }
    });
    this.low = low[0] <= high[0] ? low : [-1, -1];
    this.high = low[0] <= high[0] ? high : [1, 1];
  }

  movingOf(number) {
    if (!this.moving.has(number)) this.moving.set(number, new Map());
    return this.moving.get(number);
  }

  listen() {
    const canvas = this.canvas;
    const touching = new Map();
    let travelled = 0;
    let grabbed = null;
    canvas.addEventListener("pointerdown", (event) => {
      touching.set(event.pointerId, [event.offsetX, event.offsetY]);
      travelled = touching.size > 1 ? Infinity : 0;
      canvas.setPointerCapture(event.pointerId);
      grabbed?.end();
      grabbed = touching.size === 1 && event.button === 0 ? this.grab?.(this.levelOf(event.offsetX, event.offsetY), [event.offsetX, event.offsetY]) ?? null : null;
    });
    canvas.addEventListener("pointermove", (event) => {
      const before = touching.get(event.pointerId);
      const now = [event.offsetX, event.offsetY];
      if (!before) {
        this.onhover?.(this.levelOf(...now));
        return;
      }
      const by = [now[0] - before[0], now[1] - before[1]];
      travelled += Math.abs(by[0]) + Math.abs(by[1]);
      touching.set(event.pointerId, now);
      if (grabbed) {
        grabbed.move(this.levelOf(...now), event);
        return;
      }
      if (touching.size === 2) {
        // Two fingers: what lies between them stays there.
        const other = [...touching.entries()].find(([id]) => id !== event.pointerId)[1];
        const apart = (p) => Math.hypot(p[0] - other[0], p[1] - other[1]);
        this.pan(by[0] / 2, by[1] / 2);
        if (apart(before) > 1) this.zoom(apart(now) / apart(before), (now[0] + other[0]) / 2, (now[1] + other[1]) / 2);
        return;
      }
      this.pan(by[0], by[1]);
    });
    const lift = (event) => {
      touching.delete(event.pointerId);
      grabbed?.end();
      grabbed = null;
    };
    canvas.addEventListener("pointerup", (event) => {
      const picks = travelled < 4;
      lift(event);
      if (picks) this.pick(event.offsetX, event.offsetY);
    });
    canvas.addEventListener("pointercancel", lift);
    canvas.addEventListener("wheel", (event) => {
      event.preventDefault();
      this.zoom(Math.exp(-0.0015 * event.deltaY), event.offsetX, event.offsetY);
    }, { passive: false });
    canvas.addEventListener("dblclick", () => this.fit());
    canvas.addEventListener("keydown", (event) => {
      if (this.leavesKeys?.()) return;
      const step = 60;
      const act = { ArrowLeft: () => this.pan(step, 0), ArrowRight: () => this.pan(-step, 0),
                    ArrowUp: () => this.pan(0, step), ArrowDown: () => this.pan(0, -step),
                    "+": () => this.zoom(1.25), "=": () => this.zoom(1.25), "-": () => this.zoom(0.8),
                    n: () => this.pickNext(1), N: () => this.pickNext(-1), 0: () => this.fit() }[event.key];
      if (!act) return;
      event.preventDefault();
      act();
    });
  }

  pan(x, y) {
    this.center = [this.center[0] - x / this.scale, this.center[1] + y / this.scale];
    this.redraw();
  }

  zoom(factor, x = this.width / 2, y = this.height / 2) {
    const scale = Math.min(Math.max(this.scale * factor, 1e-6), 1e7);
    const part = 1 / this.scale - 1 / scale;
    this.center = [this.center[0] + (x - this.width / 2) * part, this.center[1] - (y - this.height / 2) * part];
    this.scale = scale;
    this.redraw();
  }

  /** Shows all of the level. */
  fit() {
    this.show(this.low, this.high, 0.94);
  }

  /** Shows a box of the level's coordinates, `part` of the view filled by it. */
  flyTo(low, high, part = 0.4) {
    const corners = [this.flat(low), this.flat(high)];
    const min = [0, 1].map((i) => Math.min(corners[0][i], corners[1][i]));
    const max = [0, 1].map((i) => Math.max(corners[0][i], corners[1][i]));
    this.show(min, max, part);
  }

  show(low, high, part) {
    if (!this.width) {
      this.wanted = [low, high, part];
      return;
    }
    this.center = [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2];
    const size = [Math.max(high[0] - low[0], 1e-6), Math.max(high[1] - low[1], 1e-6)];
    this.scale = part * Math.min(this.width / size[0], this.height / size[1]);
    this.shown = true;
    this.redraw();
  }

  /** What it shows, in an address, and back. */
  whereabouts() {
    return [...this.center, this.scale].map((x) => Number(x.toPrecision(6))).join(",");
  }

  standAt(words) {
    const numbers = words.split(",").map(Number);
    if (numbers.length !== 3 || !numbers.every(Number.isFinite) || !(numbers[2] > 0)) return false;
    [this.center, this.scale, this.shown, this.wanted] = [numbers.slice(0, 2), numbers[2], true, null];
    this.redraw();
    return true;
  }

  /** Shows what another view of the same level shows. */
  standAs(other) {
    this.center = other.center;
    this.scale = other.scale;
    this.shown = true;
    this.redraw();
  }

  resize() {
    // Taken off the page it has no size: it keeps the one it had.
    if (!this.element.clientWidth) return;
    const ratio = window.devicePixelRatio || 1;
    const before = this.width;
    this.width = Math.max(this.element.clientWidth, 10);
    this.height = Math.max(this.element.clientHeight, 10);
    this.canvas.width = this.width * ratio;
    this.canvas.height = this.height * ratio;
    this.ratio = ratio;
    if (this.wanted) this.show(...this.wanted);
    else if (!this.shown) this.fit();
    else if (before) this.scale *= this.width / before;
    this.wanted = null;
    this.redraw();
  }

  /** Layers by number that are not to be seen. */
  setHidden(layers) {
    this.hidden = layers;
    this.redraw();
  }

  /** { positions: Float32Array, verdicts: Uint8Array, shown: which, in any order } */
  setMarks(marks) {
    this.marks = marks;
    if (marks) {
      const { positions, shown } = marks;
      this.across = new Float64Array(shown.length);
      this.heights = new Float64Array(shown.length);
      shown.forEach((i, k) => {
        [this.across[k], this.heights[k]] = this.flat([positions[2 * i], positions[2 * i + 1]]);
      });
    }
    this.redraw();
  }

  setPose(pose) {
    this.pose = pose;
    this.redraw();
  }

  /** Another rig's probes at the same pose, drawn dashed behind; null for none. */
  setBeside(pose) {
    this.beside = pose;
    this.redraw();
  }

  /** Offsets of solids that have moved, by number. */
  setMoved(moved) {
    this.moved = moved;
    this.redraw();
  }

  /** The gravest mark near a place, of equals the nearest: what is drawn there, not what lies beneath. */
  pick(x, y) {
    if (!this.onpick || !this.marks) return;
    const { positions, verdicts, shown } = this.marks;
    let best = null;
    for (const i of shown) {
      const [u, v] = this.screenOf([positions[2 * i], positions[2 * i + 1]]);
      const squared = (u - x) ** 2 + (v - y) ** 2;
      if (squared > 64) continue;
      const grave = gravity[verdicts[i]];
      if (!best || grave > best.grave || (grave === best.grave && squared < best.squared)) best = { i, grave, squared };
    }
    if (best) this.onpick(best.i);
  }

  /** The marks by keys, gravest first; what is picked comes into view. */
  pickNext(by) {
    const next = nextMark(this, by);
    if (next === null) return;
    const [x, y] = this.screenOf([this.marks.positions[2 * next], this.marks.positions[2 * next + 1]]);
    if (!(x > 20 && y > 20 && x < this.width - 20 && y < this.height - 20)) this.pan(this.width / 2 - x, this.height / 2 - y);
    this.onpick?.(next);
  }

  draw() {
    if (!this.width) return;
    const context = this.canvas.getContext("2d");
    context.setTransform(this.ratio, 0, 0, this.ratio, 0, 0);
    context.fillStyle = colors().ground;
    context.fillRect(0, 0, this.width, this.height);
    this.drawSolids(context, this.still, [0, 0]);
    for (const [number, paths] of this.moving) this.drawSolids(context, paths, this.flat(this.moved.get(number) ?? [0, 0]));
    context.setTransform(this.ratio, 0, 0, this.ratio, 0, 0);
    if (this.marks) this.drawMarks(context);
    drawSigns(context, this);
    if (this.pose) this.drawPose(context);
    for (const overlay of this.overlays) overlay(context, this);
    this.drawScale(context);
  }

  drawSolids(context, paths, offset) {
    const s = this.scale * this.ratio;
    const x = this.ratio * (this.width / 2 - this.scale * (this.center[0] - offset[0]));
    const y = this.ratio * (this.height / 2 + this.scale * (this.center[1] - offset[1]));
    context.setTransform(s, 0, 0, -s, x, y);
    for (const [layer, { areas, lines }] of paths) {
      if (this.hidden.has(layer)) continue;
      const pattern = layerPattern(context, layer, this.ratio);
      pattern.setTransform(new DOMMatrix().scale(1 / s, -1 / s));
      context.fillStyle = pattern;
      context.fill(areas, "evenodd");
      context.strokeStyle = colors().edge;
      context.lineWidth = 1.2 / this.scale;
      context.stroke(areas);
      context.lineWidth = 2.2 / this.scale;
      context.stroke(lines);
    }
  }

  // What signs are drawn by (signs.js).

  isShown(number) {
    return !this.hidden.has(this.scene.solids[number].layer);
  }

  /** A solid's outlines on the screen, where it is now. */
  placedOutlines(number) {
    const solid = this.scene.solids[number];
    const by = solid.moves ? this.moved.get(number) ?? [0, 0] : [0, 0];
    return solid.outlines.map((outline) => outline.map((p) => this.screenOf([p[0] + by[0], p[1] + by[1]])));
  }

  rimsOf(number) {
    return this.placedOutlines(number).map((points) => (this.scene.solids[number].closed ? [...points, points[0]] : points));
  }

  /** The box on the screen that holds a solid's first outline. */
  boxOf(number) {
    const [points] = this.placedOutlines(number);
    return points ? { low: [0, 1].map((i) => Math.min(...points.map((p) => p[i]))), high: [0, 1].map((i) => Math.max(...points.map((p) => p[i]))) } : null;
  }

  /** A few arrows across a shape, the way that is free. */
  arrowsOf(number) {
    const box = this.boxOf(number);
    if (!box) return [];
    const [u, v] = this.flat(this.scene.solids[number].one_way);
    const length = Math.hypot(u, v) || 1;
    const way = [u / length, -v / length];
    const wide = Math.abs(way[1]) * (box.high[0] - box.low[0]) + Math.abs(way[0]) * (box.high[1] - box.low[1]);
    const count = Math.max(1, Math.min(9, Math.floor(wide / 40)));
    return Array.from({ length: count }, (_, i) => {
      const by = ((i + 0.5) / count - 0.5) * wide;
      return { at: [(box.low[0] + box.high[0]) / 2 - by * way[1], (box.low[1] + box.high[1]) / 2 + by * way[0]], way };
    });
  }

  edgesOf(low, high) {
    const corners = [low, [high[0], low[1]], high, [low[0], high[1]]].map((p) => this.screenOf(p));
    return corners.map((corner, i) => [corner, corners[(i + 1) % 4]]);
  }

  // What a hand takes hold of (live_hand.js).

  /** The point of the level under a place of the canvas; in 3D it would lie as far away as another. */
  pointAt(x, y) {
    return this.levelOf(x, y);
  }

  /** How far along a line, from a point of it, the place of the canvas is; `way` of length 1. */
  alongAt(x, y, from, way) {
    const [u, v] = this.levelOf(x, y);
    return (u - from[0]) * way[0] + (v - from[1]) * way[1];
  }

  touchesBody([x, y]) {
    const outline = this.pose.body.map((p) => this.screenOf([p[0] + this.pose.anchor[0], p[1] + this.pose.anchor[1]]));
    return [x, y].every((at, i) => at >= Math.min(...outline.map((p) => p[i])) - 6 && at <= Math.max(...outline.map((p) => p[i])) + 6);
  }

  /** Whether solids and starts have their names beside them. */
  setNames(shown) {
    this.names = shown;
    this.redraw();
  }

  /** One mark a few pixels, the gravest of those that fall there. */
  drawMarks(context) {
    const { positions, verdicts, shown, spacing } = this.marks;
    const size = Math.min(Math.max(0.42 * spacing * this.scale, 2.6), 6);
    const cell = 1.6 * size;
    const columns = Math.ceil(this.width / cell) + 1;
    const rows = Math.ceil(this.height / cell) + 1;
    const chosen = new Int32Array(columns * rows).fill(-1);
    // Hundreds of thousands of them: nothing in here but numbers.
    const { width, height, scale, across, heights } = this;
    const left = width / 2 - scale * this.center[0];
    const top = height / 2 + scale * this.center[1];
    const perCell = 1 / cell;
    for (let k = 0; k < shown.length; ++k) {
      const x = left + scale * across[k];
      const y = top - scale * heights[k];
      if (!(x >= 0 && y >= 0 && x < width && y < height)) continue;
      const place = ((y * perCell) | 0) * columns + ((x * perCell) | 0);
      const other = chosen[place];
      if (other < 0 || gravity[verdicts[shown[k]]] > gravity[verdicts[other]]) chosen[place] = shown[k];
    }
    const byVerdict = gravity.map(() => []);
    for (const i of chosen) {
      if (i >= 0) byVerdict[verdicts[i]].push(i);
    }
    for (const verdict of paintOrder) {
      if (byVerdict[verdict].length === 0) continue;
      const stamp = markStamp(verdict, size, this.ratio);
      const half = stamp.width / (2 * this.ratio);
      for (const i of byVerdict[verdict]) {
        const [x, y] = this.screenOf([positions[2 * i], positions[2 * i + 1]]);
        context.drawImage(stamp, x - half, y - half, 2 * half, 2 * half);
      }
    }
    this.drawnMarks = byVerdict.reduce((sum, list) => sum + list.length, 0);
  }

  outline(context, points, offset = [0, 0]) {
    context.beginPath();
    points.forEach((p, i) => {
      const [x, y] = this.screenOf([p[0] + offset[0], p[1] + offset[1]]);
      if (i === 0) context.moveTo(x, y);
      else context.lineTo(x, y);
    });
    context.closePath();
  }

  drawPose(context) {
    const pose = this.pose;
    const look = colors();
    this.outline(context, pose.body, pose.anchor);
    context.globalAlpha = 0.45;
    context.fillStyle = look.ground;
    context.fill();
    context.globalAlpha = 1;
    context.strokeStyle = look.body;
    context.lineWidth = 2.2;
    context.stroke();
    this.drawHeading(context, pose);
    for (const probe of this.beside?.probes ?? []) this.drawBeside(context, probe);
    pose.probes.forEach((probe, number) => {
      context.globalAlpha = probe.dim ? 0.3 : 1;
      this.drawProbe(context, probe, number);
    });
    context.globalAlpha = 1;
    if (pose.truth) this.drawTruth(context, pose.truth);
    const [x, y] = this.screenOf(pose.anchor);
    context.fillStyle = look.body;
    context.beginPath();
    context.arc(x, y, 3, 0, 2 * Math.PI);
    context.fill();
  }

  drawHeading(context, pose) {
    const top = Math.max(...pose.body.map((p) => p[0] * this.up[0] + p[1] * this.up[1]));
    const width = Math.max(...pose.body.map((p) => Math.abs(p[0] * this.right[0] + p[1] * this.right[1])));
    const side = pose.heading[0] * this.right[0] + pose.heading[1] * this.right[1] < 0 ? -1 : 1;
    const from = this.screenOf([0, 1].map((i) => pose.anchor[i] + 0.8 * top * this.up[i] + side * width * this.right[i]));
    const x = from[0] + 5 * side;
    context.strokeStyle = context.fillStyle = colors().body;
    context.lineWidth = 1.6;
    context.beginPath();
    context.moveTo(x, from[1]);
    context.lineTo(x + 16 * side, from[1]);
    context.stroke();
    context.beginPath();
    context.moveTo(x + 23 * side, from[1]);
    context.lineTo(x + 15 * side, from[1] - 4.5);
    context.lineTo(x + 15 * side, from[1] + 4.5);
    context.fill();
  }

  drawBeside(context, probe) {
    context.strokeStyle = colors().faint;
    context.lineWidth = 1.6;
    context.setLineDash([2, 4]);
    for (const line of probe.lines) {
      context.beginPath();
      context.moveTo(...this.screenOf(line.from));
      context.lineTo(...this.screenOf(line.limit));
      context.stroke();
      if (!probe.shape) continue;
      this.outline(context, probe.shape, line.from);
      context.stroke();
      this.outline(context, probe.shape, line.limit);
      context.stroke();
    }
    context.setLineDash([]);
  }

  drawProbe(context, probe, number) {
    const look = colors();
    context.strokeStyle = context.fillStyle = look.probe;
    for (const line of probe.lines) {
      const start = this.screenOf(line.from);
      const end = this.screenOf(line.to);
      const limit = this.screenOf(line.limit);
      context.lineWidth = 1.6;
      context.setLineDash([]);
      context.beginPath();
      context.moveTo(...start);
      context.lineTo(...end);
      context.stroke();
      context.lineWidth = 1;
      context.setLineDash([4, 3]);
      context.beginPath();
      context.moveTo(...end);
      context.lineTo(...limit);
      context.stroke();
      if (probe.shape) {
        this.outline(context, probe.shape, line.from);
        context.stroke();
        context.setLineDash(line.hit ? [] : [4, 3]);
        context.lineWidth = 1.5;
        this.outline(context, probe.shape, line.to);
        context.stroke();
      }
      context.setLineDash([]);
      if (line.hit) this.drawHit(context, line.hit);
      context.beginPath();
      context.arc(...start, 3.2, 0, 2 * Math.PI);
      context.fill();
    }
    if (probe.lines.length > 0 && probe.numbered) this.drawNumber(context, this.screenOf(probe.lines[0].from), probe.place, number + 1);
  }

  drawNumber(context, [x, y], place, number) {
    context.font = "bold 12px system-ui, sans-serif";
    context.textAlign = "left";
    const left = x + 7 + 14 * place;
    context.fillStyle = colors().ground;
    context.beginPath();
    context.arc(left + 4, y - 10, 7.5, 0, 2 * Math.PI);
    context.fill();
    context.fillStyle = colors().probe;
    context.fillText(String(number), left, y - 6);
  }

  drawHit(context, hit) {
    const at = this.screenOf(hit.point);
    const tip = this.screenOf([hit.point[0] + hit.normal[0], hit.point[1] + hit.normal[1]]);
    const length = Math.hypot(tip[0] - at[0], tip[1] - at[1]);
    context.strokeStyle = colors().probe;
    context.lineWidth = 2.2;
    if (length > 1e-6) {
      context.beginPath();
      context.moveTo(...at);
      context.lineTo(at[0] + (22 * (tip[0] - at[0])) / length, at[1] + (22 * (tip[1] - at[1])) / length);
      context.stroke();
    }
    context.beginPath();
    context.arc(...at, 3, 0, 2 * Math.PI);
    context.fillStyle = hit.on ? colors().probe : colors().ground;
    context.fill();
    context.lineWidth = 1.3;
    context.stroke();
    context.fillStyle = colors().probe;
  }

  /** What the truth is about: the verdict's mark, with a leader. */
  drawTruth(context, truth) {
    const [x, y] = this.screenOf(truth.at);
    drawMark(context, truth.verdict, x, y, 9);
  }

  drawScale(context) {
    const step = roundStep(90 / this.scale);
    if (!Number.isFinite(step)) return;
    const length = step * this.scale;
    const y = this.height - 12;
    const x = this.width - 14 - length;
    context.fillStyle = colors().ground;
    context.globalAlpha = 0.85;
    context.fillRect(x - 6, y - 18, length + 12, 26);
    context.globalAlpha = 1;
    context.strokeStyle = context.fillStyle = colors().ink;
    context.lineWidth = 2;
    context.beginPath();
    context.moveTo(x, y);
    context.lineTo(x + length, y);
    context.stroke();
    context.font = "11px system-ui, sans-serif";
    context.textAlign = "center";
    context.fillText(plain(step), x + length / 2, y - 5);
  }
}
