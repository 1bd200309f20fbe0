// Elements, and what the page's data is packed in.

/** An element with attributes, listeners (keys that begin with "on") and children. */
export function make(tag, attributes = {}, ...children) {
  const element = document.createElement(tag);
  for (const [key, value] of Object.entries(attributes)) {
    if (key.startsWith("on")) {
      element.addEventListener(key.slice(2), value);
    } else if (value === true) {
      element.setAttribute(key, "");
    } else if (value !== false && value !== undefined && value !== null) {
      element.setAttribute(key, value);
    }
  }
  element.append(...children.flat(Infinity).filter((child) => child !== null && child !== undefined));
  return element;
}

/** A button that stays pressed until it is pressed again; `onchange(pressed)`. */
export function toggle(content, pressed, onchange, attributes = {}) {
  const button = make("button", { type: "button", class: "toggle", "aria-pressed": String(pressed), ...attributes, onclick: () => {
    const now = button.getAttribute("aria-pressed") !== "true";
    button.setAttribute("aria-pressed", String(now));
    onchange(now);
  } }, content);
  return button;
}

function bytesOf(base64) {
  const text = atob(base64);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; ++i) bytes[i] = text.charCodeAt(i);
  return bytes.buffer;
}

/** Numbers packed as little-endian bytes in base64. */
export const floats = (base64) => new Float32Array(bytesOf(base64));
export const shorts = (base64) => new Uint16Array(bytesOf(base64));
export const bytes = (base64) => new Uint8Array(bytesOf(base64));

/** Four significant digits, no trailing zeros. */
export function plain(x) {
  return Number.isFinite(x) ? String(Math.abs(x) < 1e-9 ? 0 : Number(x.toPrecision(4))) : "none";
}

export const spaced = (name) => name.replaceAll("_", " ");

/** 1, 2 or 5 times a power of ten, no less than x. */
export function roundStep(x) {
  const power = 10 ** Math.floor(Math.log10(x));
  return [1, 2, 5, 10].map((factor) => factor * power).find((step) => step >= x * 0.999999);
}

/** At most one call of `draw` a frame. */
export function onceAFrame(draw) {
  let asked = false;
  return () => {
    if (asked) return;
    asked = true;
    requestAnimationFrame(() => {
      asked = false;
      draw();
    });
  };
}
