// The page: reads the data in it and shows its reports, with a switch where there are several.
import { make } from "./dom.js";
import { theme } from "./look.js";
import { DrillView } from "./drill_view.js";
import { LiveView } from "./live_view.js";
import { SurveyView } from "./survey_view.js";

function viewOf(data, number) {
  const report = data.reports[number];
  const scene = data.scenes[report.scene];
  if (report.kind === "drill") return new DrillView(report, scene);
  const before = data.reports.find((r, i) => i !== number && r.kind === "survey" && r.scene === report.scene && data.compares &&
    (!data.beside || number > 0));
  return new SurveyView(report, scene, before, data.compared);
}

function suiteTable(data, show) {
  const rows = data.suite.results.map((result) => make("tr", { class: result.passed ? "kept" : "broken" },
    make("td", {}, result.passed ? "✓ pass" : "✗ FAIL"), make("td", {}, result.kind),
    make("th", { scope: "row" }, result.report === null ? result.name
      : make("button", { type: "button", onclick: () => show(result.report) }, result.name)),
    make("td", { class: "words" }, result.failure)));
  const failed = data.suite.results.filter((result) => !result.passed).length;
  return make("details", { class: "suite", open: true },
    make("summary", {}, failed ? `${failed} of ${rows.length} fail` : `all ${rows.length} pass`),
    make("div", { class: "scroll", tabindex: 0, role: "region", "aria-label": "Table" }, make("table", {}, make("thead", {}, make("tr", {}, ["", "kind", "what", "why it fails"].map((h) => make("th", { scope: "col" }, h)))),
      make("tbody", {}, rows))));
}

function start(data) {
  const holder = make("main", {});
  const views = new Map();
  let current = null;
  let shownNumber = 0;
  const tabs = data.reports.map((report, number) => make("button", { type: "button", role: "tab", "data-report": number,
    onclick: () => show(number) }, data.beside ? `${number + 1}: ${report.name}` : data.compares ? `${number === 0 ? "now" : "before"}: ${report.name}` : report.name));
  function show(number) {
    current?.pause?.();
    if (!views.has(number)) views.set(number, viewOf(data, number));
    const before = current;
    const from = current?.view;
    current = views.get(number);
    holder.replaceChildren(current.element);
    tabs.forEach((tab, i) => tab.setAttribute("aria-selected", String(i === number)));
    current.repaint();
    // The switch shows the same place with the other rig, cut and layers as they were.
    if (data.compares && from && current.view && from !== current.view) {
      current.stage.standAt(before.stage.whereabouts());
      current.view.standAs(from);
    }
    shownNumber = number;
    window.hollowProbe = { data, view: current.view, report: current };
  }
  const lights = make("button", { type: "button", id: "theme", onclick: () => {
    document.documentElement.dataset.theme = theme() === "dark" ? "light" : "dark";
    current?.repaint();
  } }, "Light or dark");
  document.body.replaceChildren(
    make("header", {}, make("h1", {}, data.title), lights),
    data.words ? make("details", { class: "suite", open: data.words.split("\n").length <= 12 }, make("summary", {}, "In words"), make("pre", {}, data.words)) : "",
    data.suite ? suiteTable(data, show) : "",
    data.reports.length > 1 ? make("nav", { class: "bar", role: "tablist", "aria-label": data.beside ? "Rigs" : data.compares ? "Before and after" : "Reports" }, tabs) : "",
    holder);
  matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => current?.repaint());
  // The address holds what is looked at: back, share and reload work.
  let noted = "";
  const read = () => {
    const words = Object.fromEntries(new URLSearchParams(location.hash.slice(1)));
    const number = Number(words.report ?? NaN);
    if (!Number.isInteger(number) || number < 0 || number >= data.reports.length) return false;
    if (words.theme === "dark" || words.theme === "light") document.documentElement.dataset.theme = words.theme;
    if (current !== views.get(number) || !current) show(number);
    current.standAt(words);
    requestAnimationFrame(() => requestAnimationFrame(() => current.stage.standAt(words)));
    noted = location.hash.slice(1);
    return true;
  };
  const note = () => {
    if (!current) return;
    const chosen = document.documentElement.dataset.theme;
    const words = new URLSearchParams({ report: shownNumber, ...current.whereabouts(), ...current.stage.whereabouts(), ...(chosen ? { theme: chosen } : {}) }).toString();
    if (words === noted) return;
    noted = words;
    history.replaceState(null, "", `#${words}`);
  };
  addEventListener("hashchange", () => { if (location.hash.slice(1) !== noted) read(); });
  if (data.reports.length > 0 && !read())
    show(data.suite ? Math.max(0, data.suite.results.find((r) => !r.passed && r.report !== null)?.report ?? 0) : 0);
  setInterval(note, 500);
}

/** The live bench: one view, which asks for all it shows. */
function startLive(data) {
  const view = new LiveView(data);
  const lights = make("button", { type: "button", id: "theme", onclick: () => {
    document.documentElement.dataset.theme = theme() === "dark" ? "light" : "dark";
    view.repaint();
  } }, "Light or dark");
  document.body.replaceChildren(make("header", {}, make("h1", {}, data.title), lights), make("main", {}, view.element));
  matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => view.repaint());
  window.hollowProbe = { data, live: view };
}

function complain(error) {
  document.body.replaceChildren(make("main", { role: "alert", class: "notice" }, make("h1", {}, "This page cannot be shown"),
    make("p", {}, "The data in it cannot be read. It may have been cut short or changed; write it anew with hollow-probe."),
    make("pre", {}, String(error?.message ?? error))));
}

try {
  const data = JSON.parse(document.getElementById("data").textContent);
  if (data.format === "hollow-probe live 1") startLive(data);
  else if (data.format !== "hollow-probe page 1") throw new Error(`format is ${JSON.stringify(data.format)}, expected "hollow-probe page 1"`);
  else start(data);
} catch (error) {
  complain(error);
}
