// A view of a level with the controls that both surveys and drills have: layers, the cut, showing all.
import { make, toggle } from "./dom.js";
import { layerSwatch } from "./look.js";
import { PlaneView } from "./plane_view.js";
import { SpaceView } from "./space_view.js";

function canDrawSpace() {
  try {
    return Boolean(document.createElement("canvas").getContext("webgl"));
  } catch {
    return false;
  }
}

/** { view, element, bar }: bar is a toolbar that more may be put in. `whereabouts()` says what is seen, in words of an
    address, and `standAt(words)` shows it again. */
export function makeStage(scene) {
  if (scene.dimensions === 3 && !canDrawSpace()) {
    const words = "This browser draws nothing in three dimensions (WebGL is missing or off); everything else on this page works.";
    return { view: null, element: make("div", { class: "stage notice", role: "alert" }, words), bar: make("div"), whereabouts: () => ({}), standAt: () => {} };
  }
  const view = scene.dimensions === 2 ? new PlaneView(scene) : new SpaceView(scene);
  const hidden = new Set();
  const used = [...new Set(scene.solids.map((solid) => solid.layer))].sort((a, b) => a - b);
  const layers = used.map((layer) => {
    return toggle([layerSwatch(layer), scene.layers[layer]], true, (pressed) => {
      if (pressed) hidden.delete(layer);
      else hidden.add(layer);
      view.setHidden(hidden);
    }, { "data-layer": scene.layers[layer] });
  });
  const bar = make("div", { class: "bar", role: "toolbar", "aria-label": "View" },
    make("button", { type: "button", onclick: () => view.fit(), title: "Show the whole level (0)" }, "Whole level"),
    make("button", { type: "button", onclick: () => view.zoom(1.4), "aria-label": "Zoom in" }, "+"),
    make("button", { type: "button", onclick: () => view.zoom(1 / 1.4), "aria-label": "Zoom out" }, "−"),
    layers);
  if (scene.dimensions === 3) {
    const slider = make("input", { type: "range", min: 0, max: 1, step: 0.005, value: 1, id: "cut",
      oninput: () => view.setCut(Number(slider.value)) });
    view.oncut = (by) => {
      slider.value = Number(slider.value) + by;
      view.setCut(Number(slider.value));
    };
    bar.append(make("label", { class: "check" }, "cut at height", slider));
  }
  bar.append(toggle("names", false, (pressed) => view.setNames(pressed), { "data-names": true }));
  const cut = bar.querySelector("#cut");
  const whereabouts = () => ({ ...(view.shown ? { view: view.whereabouts() } : {}), ...(cut && Number(cut.value) < 1 ? { cut: cut.value } : {}),
    ...(hidden.size ? { hidden: [...hidden].join(",") } : {}) });
  const standAt = (words) => {
    if (words.view) view.standAt(words.view);
    if (cut) {
      cut.value = words.cut ?? 1;
      view.setCut(Number(cut.value));
    }
    hidden.clear();
    for (const layer of (words.hidden ?? "").split(",")) if (layer !== "" && used.includes(Number(layer))) hidden.add(Number(layer));
    layers.forEach((button, i) => button.setAttribute("aria-pressed", String(!hidden.has(used[i]))));
    view.setHidden(hidden);
  };
  if (scene.left_out > 0)
    bar.append(make("span", { class: "hint" }, `${scene.left_out} pieces far from the findings are not drawn`));
  return { view, element: view.element, bar, whereabouts, standAt };
}

/** What colours a theme gives to a stage. */
export function repaint(stage, scene) {
  for (const old of stage.bar.querySelectorAll(".swatch")) old.replaceWith(layerSwatch(Number(old.dataset.layerNumber)));
  if (!stage.view) return;
  if (scene.dimensions === 3) stage.view.paint();
  else stage.view.redraw();
}
