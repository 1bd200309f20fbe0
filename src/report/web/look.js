// How things look: verdicts by form first and colour second, layers by grey and hatching.

export const verdicts = ["true_contact", "missed_contact", "false_contact", "true_clear", "undecided", "forgiven"];
/** By verdict: the gravest is shown where several fall on one place. */
export const gravity = [1, 4, 3, 0, 2, 1];
/** Numbers of verdicts, the gravest last. */
export const paintOrder = [3, 0, 5, 4, 2, 1];

/** The next of a view's marks by gravity, of equals in their order; the first after the last. Null for none. */
export function nextMark(view, by) {
  if (!view.marks || view.marks.shown.length === 0) return null;
  if (view.ordered?.of !== view.marks) {
    const { shown, verdicts: of } = view.marks;
    view.ordered = { of: view.marks, list: [...shown].sort((a, b) => gravity[of[b]] - gravity[of[a]] || a - b), at: by > 0 ? -1 : 0 };
  }
  const { list } = view.ordered;
  view.ordered.at = (view.ordered.at + by + list.length) % list.length;
  return list[view.ordered.at];
}

// M. Okabe, K. Ito, "Color universal design", 2008.
const verdictColors = {
  light: ["#009e73", "#bd7600", "#b0578c", "#8f8d89", "#55534f", "#009e73"],
  dark: ["#1fc796", "#f0ae1b", "#d98fbb", "#85827d", "#c9c6c0", "#1fc796"],
};
const themes = {
  light: { ground: "#ffffff", ink: "#212121", faint: "#6b6964", body: "#1a2438", probe: "#0072b2",
           fills: ["#d6d2cb", "#c3bdb2", "#e3ddd0", "#b3aea6", "#dcd3c4", "#c9c9c4"], edge: "#5d5a55" },
  dark: { ground: "#1d1c1a", ink: "#ecebe8", faint: "#a3a09a", body: "#f2f5ff", probe: "#58b4e6",
          fills: ["#57534c", "#6b655b", "#4a4740", "#7b756a", "#625a4d", "#5a5a55"], edge: "#b3aea4" },
};
const hatchAngles = [45, 135, 0, 90, 20, 160];

export function theme() {
  const chosen = document.documentElement.dataset.theme;
  const dark = chosen ? chosen === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  return dark ? "dark" : "light";
}
export const colors = () => themes[theme()];
export const verdictColor = (verdict) => verdictColors[theme()][verdict];
export const layerFill = (layer) => colors().fills[layer % colors().fills.length];

/** The mark of a verdict around a point of a 2D drawing context. */
export function drawMark(context, verdict, x, y, size) {
  context.fillStyle = context.strokeStyle = verdictColor(verdict);
  context.lineWidth = Math.max(1.2, 0.42 * size);
  context.beginPath();
  if (verdict === 0) {
    context.arc(x, y, 0.95 * size, 0, 2 * Math.PI);
    context.fill();
  } else if (verdict === 1) {
    context.arc(x, y, size, 0, 2 * Math.PI);
    context.stroke();
  } else if (verdict === 2) {
    context.moveTo(x - size, y - size);
    context.lineTo(x + size, y + size);
    context.moveTo(x - size, y + size);
    context.lineTo(x + size, y - size);
    context.stroke();
  } else if (verdict === 3) {
    context.arc(x, y, Math.max(0.8, 0.36 * size), 0, 2 * Math.PI);
    context.fill();
  } else {
    context.strokeRect(x - 0.8 * size, y - 0.8 * size, 1.6 * size, 1.6 * size);
    if (verdict === 5) context.fillRect(x - 0.35 * size, y - 0.35 * size, 0.7 * size, 0.7 * size);
  }
}

/** A small picture of a mark, drawn once and copied often. */
export function markSprite(verdict, size, ratio = 1) {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = Math.ceil((2 * size + 4) * ratio);
  const context = canvas.getContext("2d");
  context.scale(ratio, ratio);
  drawMark(context, verdict, size + 2, size + 2, size);
  return canvas;
}

const stamps = new Map();

/** … that thousands of copies are made of: an image by itself is copied sooner than a canvas is. */
export function markStamp(verdict, size, ratio) {
  // In tenths of a pixel, or zooming would make ever new ones.
  const tenths = Math.round(10 * size);
  const key = [verdict, tenths, ratio, theme()].join();
  if (!stamps.has(key)) {
    const side = Math.ceil((0.2 * tenths + 4) * ratio);
    const canvas = new OffscreenCanvas(side, side);
    const context = canvas.getContext("2d");
    context.scale(ratio, ratio);
    drawMark(context, verdict, 0.1 * tenths + 2, 0.1 * tenths + 2, 0.1 * tenths);
    stamps.set(key, canvas.transferToImageBitmap());
  }
  return stamps.get(key);
}

/** A mark as an element that goes in running text. */
export function markElement(verdict) {
  const canvas = markSprite(verdict, 5, 2);
  canvas.style.width = canvas.style.height = "14px";
  canvas.className = "mark";
  canvas.setAttribute("aria-hidden", "true");
  canvas.dataset.verdict = verdict;
  return canvas;
}

/** A layer's fill and hatching as an element. */
export function layerSwatch(layer) {
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [36, 26];
  canvas.className = "swatch";
  canvas.setAttribute("aria-hidden", "true");
  canvas.dataset.layerNumber = layer;
  const context = canvas.getContext("2d");
  context.fillStyle = layerPattern(context, layer, 2);
  context.fillRect(0, 0, 36, 26);
  return canvas;
}

/** Fill and hatching of a layer, as a pattern that does not zoom. */
export function layerPattern(context, layer, ratio) {
  const side = Math.round(8 * ratio);
  const tile = document.createElement("canvas");
  tile.width = tile.height = side;
  const t = tile.getContext("2d");
  t.fillStyle = layerFill(layer);
  t.fillRect(0, 0, side, side);
  t.strokeStyle = colors().edge;
  t.globalAlpha = 0.42;
  t.lineWidth = 0.8 * ratio;
  t.beginPath();
  // Steep and shallow angles share the diagonal tiles: what repeats must meet itself at the rim.
  const angle = hatchAngles[layer % hatchAngles.length];
  const lines = { 0: [[0, 0.5, 1, 0.5]], 90: [[0.5, 0, 0.5, 1]],
                  20: [[0, 0.25, 1, 0.75], [0, 0.75, 1, 1.25], [0, -0.25, 1, 0.25]],
                  160: [[0, 0.75, 1, 0.25], [0, 1.25, 1, 0.75], [0, 0.25, 1, -0.25]],
                  45: [[0, 1, 1, 0], [-0.5, 0.5, 0.5, -0.5], [0.5, 1.5, 1.5, 0.5]],
                  135: [[0, 0, 1, 1], [-0.5, 0.5, 0.5, 1.5], [0.5, -0.5, 1.5, 0.5]] }[angle];
  for (const [x, y, x2, y2] of lines) {
    t.moveTo(x * side, y * side);
    t.lineTo(x2 * side, y2 * side);
  }
  t.stroke();
  return context.createPattern(tile, "repeat");
}
