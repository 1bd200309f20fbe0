// What is written on a level in 2D and 3D: areas, starts, which way is free through what is solid to one side, who meets
// what, and names.
import { colors } from "./look.js";

/** Draws them over a view: { scene, names, width, height, isShown(number), boxOf(number), rimsOf(number), arrowsOf(number),
    edgesOf(low, high), screenOf(p) }. A place that cannot be seen is null. */
export function drawSigns(context, view) {
  context.font = "11px system-ui, sans-serif";
  context.textAlign = "left";
  const written = [];
  view.scene.solids.forEach((solid, number) => {
    if (!view.isShown(number)) return;
    if (solid.role) drawRims(context, view.rimsOf(number), solid.role);
    if (solid.one_way) view.arrowsOf(number).forEach((arrow) => drawArrow(context, arrow));
  });
  for (const area of view.scene.areas ?? []) drawArea(context, view, area, written);
  for (const start of view.scene.starts ?? []) drawStart(context, view, start, written);
  if (view.names) writeNames(context, view, written);
}

/** Words on a ground of their own; false where they would cover others. */
function write(context, words, x, y, written) {
  const box = [x - 2, y - 10, context.measureText(words).width + 4, 13];
  if (written.some((other) => box[0] < other[0] + other[2] && other[0] < box[0] + box[2] && box[1] < other[1] + other[3] && other[1] < box[1] + box[3])) return false;
  written.push(box);
  context.globalAlpha = 0.8;
  context.fillStyle = colors().ground;
  context.fillRect(...box);
  context.globalAlpha = 1;
  context.fillStyle = colors().faint;
  context.fillText(words, x, y);
  return true;
}

/** What only probes meet is dotted, what only the body meets dashed. */
function drawRims(context, rims, role) {
  context.beginPath();
  for (const rim of rims) rim.forEach((p, i) => (i ? context.lineTo(...p) : context.moveTo(...p)));
  context.strokeStyle = colors().ground;
  context.lineWidth = 2.6;
  context.setLineDash(role === "sensed" ? [2, 4] : [7, 5]);
  context.stroke();
  context.setLineDash([]);
}

/** { at, way }: the middle, and the way that is free, both on the screen. */
function drawArrow(context, { at: [x, y], way: [u, v] }) {
  const tip = [x + 7 * u, y + 7 * v];
  context.strokeStyle = colors().ink;
  context.lineWidth = 1.5;
  context.beginPath();
  context.moveTo(x - 7 * u, y - 7 * v);
  context.lineTo(...tip);
  for (const side of [-1, 1]) {
    context.moveTo(...tip);
    context.lineTo(tip[0] - 5 * u - 4 * side * v, tip[1] - 5 * v + 4 * side * u);
  }
  context.stroke();
}

function drawArea(context, view, area, written) {
  const edges = view.edgesOf(area.low, area.high);
  if (edges.length === 0) return;
  context.strokeStyle = colors().faint;
  context.lineWidth = 1;
  context.setLineDash([6, 4]);
  context.beginPath();
  for (const [a, b] of edges) {
    context.moveTo(...a);
    context.lineTo(...b);
  }
  context.stroke();
  context.setLineDash([]);
  const points = edges.flat();
  const low = [0, 1].map((i) => Math.min(...points.map((p) => p[i])));
  const high = Math.max(...points.map((p) => p[0]));
  if (high - low[0] > 30) write(context, area.name, low[0] + 4, low[1] + 13, written);
}

/** A small flag. */
function drawStart(context, view, start, written) {
  const place = view.screenOf(start.at);
  if (!place) return;
  const [x, y] = place;
  context.strokeStyle = colors().faint;
  context.lineWidth = 1;
  context.beginPath();
  context.moveTo(x, y);
  context.lineTo(x, y - 16);
  context.lineTo(x + 8, y - 12);
  context.lineTo(x, y - 8);
  context.stroke();
  if (view.names) write(context, start.name, x + 10, y - 10, written);
}

/** The narrowest first: what is wide finds another place for its name. */
function writeNames(context, view, written) {
  const boxes = view.scene.solids.map((solid, number) => ({ solid, box: view.isShown(number) ? view.boxOf(number) : null }));
  const wide = boxes.filter(({ box }) => box && box.high[0] - box.low[0] >= 24 && box.high[0] > 0 && box.low[0] < view.width && box.high[1] > 0 && box.low[1] < view.height);
  wide.sort((a, b) => a.box.high[0] - a.box.low[0] - (b.box.high[0] - b.box.low[0]));
  for (const { solid, box } of wide) {
    const words = solid.name + ({ sensed: ", sensed only", reference: ", reference only" }[solid.role] ?? "");
    const half = context.measureText(words).width / 2;
    // Of what is seen of it: in the middle, or a quarter to a side.
    const [low, high] = [box.low.map((x) => Math.max(x, 0)), [Math.min(box.high[0], view.width), Math.min(box.high[1], view.height)]];
    const y = Math.min(Math.max((low[1] + high[1]) / 2 + 4, 12), view.height - 4);
    [0.5, 0.25, 0.75].some((part) => write(context, words, Math.min(Math.max(low[0] + part * (high[0] - low[0]) - half, 3), view.width - 2 * half - 3), y, written));
  }
}
