// A survey: the verdict table, the level with its marks, and the findings, worst first.
import { bytes, floats, make, plain, shorts, spaced } from "./dom.js";
import { Filters } from "./filters.js";
import { markElement, verdicts } from "./look.js";
import { makeStage, repaint } from "./stage.js";

const verdictOf = (name) => verdicts.indexOf(name);

export function verdictTable(report, before, shares = true) {
  // What nobody is forgiven needs no column.
  const forgives = [report, before].some((r) => r?.signals.some((signal) => signal.poses[5] > 0));
  const columns = ["true", "missed", "false", "clear", "undecided", ...(forgives ? ["forgiven"] : [])];
  const rows = report.signals.filter((signal) => !signal.helper).map((signal) => {
    const number = report.signals.indexOf(signal);
    const other = before?.signals.find((s) => s.name === signal.name);
    const cells = columns.map((_, v) => {
      const measure = signal.measure[v];
      const delta = other ? measure - other.measure[v] : 0;
      return make("td", { class: (v === 1 || v === 2) && signal.poses[v] > 0 ? "wrong" : "", title: `${signal.poses[v]} poses` }, plain(measure),
        Math.abs(delta) < 1e-9 ? null : make("small", {}, ` ${delta > 0 ? "+" : "−"}${plain(Math.abs(delta))}`));
    });
    return make("tr", { "data-signal": number }, make("th", { scope: "row" }, signal.name, make("small", {}, ` ${signal.claims}`)), cells,
      shares ? [make("td", {}, signal.precision.toFixed(3)), make("td", {}, signal.recall.toFixed(3))] : null);
  });
  const heads = [make("th", { scope: "col" }, report.measured), ...columns.map((words, v) => make("th", { scope: "col" }, markElement(v), make("br"), words)),
    ...(shares ? ["precision", "recall"] : []).map((words) => make("th", { scope: "col" }, words))];
  return make("div", { class: "scroll", tabindex: 0, role: "region", "aria-label": "Table" }, make("table", { class: "verdicts" }, make("thead", {}, make("tr", {}, heads)), make("tbody", {}, rows)));
}

/** One bar a signal of what is missed and false. */
function wrongChart(report) {
  const holder = make("div", { class: "chart" }, make("canvas", { role: "img", "aria-label": "Missed and false contacts by signal" }));
  const style = getComputedStyle(document.documentElement);
  const ink = style.getPropertyValue("--ink");
  const judged = report.signals.filter((s) => !s.helper);
  holder.style.height = `${70 + 26 * judged.length}px`;
  requestAnimationFrame(() => {
    const colors = [["--missed", 1, "missed contact"], ["--false", 2, "false contact"]];
    new Chart(holder.firstChild, {
      type: "bar",
      data: { labels: judged.map((s) => s.name),
        datasets: colors.map(([name, verdict, label]) => ({ label, data: judged.map((s) => s.measure[verdict]),
          backgroundColor: style.getPropertyValue(name) })) },
      options: { indexAxis: "y", animation: false, maintainAspectRatio: false, color: ink,
        scales: { x: { stacked: true, ticks: { color: ink }, title: { display: true, text: report.measured, color: ink } },
                  y: { stacked: true, ticks: { color: ink, autoSkip: false } } },
        plugins: { legend: { labels: { color: ink, boxWidth: 12 } } } },
    });
  });
  return holder;
}

/** What to change, best first: a fix chosen shows the worst finding that it cures. */
function fixList(report, choose) {
  const fixes = report.fixes ?? [];
  if (report.findings.length === 0) return null;
  if (fixes.length === 0) return make("section", { class: "fixes" }, make("h2", {}, "What to change"), make("p", {}, "Nothing that was tried makes this rig less wrong."));
  const shown = (n) => report.findings.find((finding) => finding.fixes.includes(n)) ?? report.findings[fixes[n].findings[0]];
  const entry = (fix, n) => make("li", {}, make("button", { type: "button", onclick: () => choose(shown(n)) },
    make("b", {}, fix.change), make("span", {}, fix.promise || "not surveyed anew"),
    make("span", { class: "hint" }, `${fix.findings.length} of ${report.findings.length} findings`)));
  const joint = report.joint ? make("p", {}, `Fixes ${report.joint.fixes.map((n) => n + 1).join(", ")} together: ${report.joint.promise}`) : null;
  return make("section", { class: "fixes", id: "fixes" }, make("h2", {}, "What to change, best first"), make("ol", {}, fixes.map(entry)), joint);
}

function causeRow(cause) {
  const changes = [cause, ...cause.with].filter((c) => c.parameter);
  const change = changes.map((c) => [make("code", {}, `${c.probe ? c.probe + " · " : ""}${c.parameter}: ${c.now} → ${c.needs}`), make("br")]);
  const count = (n) => make("td", {}, String(n ?? ""));
  return make("tr", {}, make("td", {}, spaced(cause.cause)), make("td", { class: "words" }, change), count(cause.by > 0 ? plain(cause.by) : ""),
    count(cause.cures), count(cause.cures_elsewhere), count(cause.adds_missed), count(cause.adds_false));
}

export class SurveyView {
  /** `report` is of the rig asked about, `before` of another on the same level, if one was given; `compared`: what
      became of findings, and of verdicts at the same poses. */
  constructor(report, scene, before, compared) {
    this.compared = compared;
    this.report = report;
    this.scene = scene;
    this.stage = makeStage(scene);
    this.view = this.stage.view;
    this.poses = { count: report.poses.count, positions: floats(report.poses.anchors), facings: shorts(report.poses.facings),
                   verdicts: bytes(report.poses.verdicts) };
    this.filters = new Filters(report, () => this.refilter());
    this.list = make("ol", { class: "findings", "aria-label": "Findings, worst first" });
    this.detail = make("section", { class: "detail", "aria-live": "polite", id: "detail" });
    this.count = make("p", { class: "hint", id: "shown" });
    const overview = this.overview = make("details", { class: "overview", open: true }, make("summary", {}, "Verdicts"),
      verdictTable(report, before), compared ? make("p", { id: "compared" }, `At the same ${compared.poses} poses: ${compared.mended} mended, ${compared.spoiled} spoiled, ${compared.still} wrong in both. ` +
        `Findings: ${compared.cured.length} cured, ${compared.new.length} new, ${compared.unchanged.length} unchanged.`) : null, report.untested.map((line) => make("p", { class: "untested" }, line)), make("p", { class: "hint" }, report.summary),
      report.signals.some((s) => s.poses[1] + s.poses[2] > 0) ? wrongChart(report) : null);
    this.element = make("div", { class: "report" },
      make("div", { class: "main" }, this.stage.bar, this.stage.element, this.detail),
      make("div", { class: "side" }, fixList(report, (finding) => this.choose(finding)), overview, this.filters.element, this.count, this.list));
    if (this.view) this.view.onpick = (i) => this.showMark(i);
    this.refilter();
    this.welcome();
  }

  /** What is looked at, in words of an address, and back. */
  whereabouts() {
    return { ...(this.chosen ? { finding: this.chosen.id } : {}), ...(this.filters.signal !== "" ? { signal: this.filters.signal } : {}) };
  }

  standAt(words) {
    this.filters.chooseSignal(words.signal ?? "");
    const finding = this.report.findings.find((one) => one.id === words.finding);
    if (finding) this.choose(finding, words.view !== undefined);
  }

  repaint() {
    repaint(this.stage, this.scene);
    if (this.overview.querySelector(".chart")) this.overview.querySelector(".chart").replaceWith(wrongChart(this.report));
    for (const old of this.element.querySelectorAll("canvas.mark")) old.replaceWith(markElement(Number(old.dataset.verdict)));
  }

  /** Opens on the worst that the leading fix cures. */
  welcome() {
    const { findings, fixes } = this.report;
    if (findings.length === 0) {
      this.detail.replaceChildren(make("p", {}, "No finding: every signal agrees with truth at every pose judged."));
      return;
    }
    const first = (fixes ?? []).length > 0 ? findings.find((finding) => finding.fixes.includes(0)) ?? findings[fixes[0].findings[0]] : findings[0];
    this.filters.chooseSignal(String(first.signal));
    this.choose(first);
  }

  refilter() {
    const marks = this.filters.marks(this.poses);
    this.marks = marks;
    this.view?.setMarks(marks);
    const shown = this.report.findings.filter((finding) => this.filters.shows(finding));
    const { kept_of: keptOf, count } = this.report.poses;
    this.count.textContent = `${marks.shown.length} of ${count} marks, ${shown.length} of ${this.report.findings.length} findings` +
      (keptOf > 1 ? `; of poses that are right one in ${keptOf} is drawn` : "");
    this.list.replaceChildren(...shown.map((finding) => this.entry(finding)));
  }

  entry(finding) {
    const signal = this.report.signals[finding.signal].name;
    const fixes = (finding.fixes ?? []).map((n) => n + 1);
    return make("li", {}, make("button", { type: "button", "data-finding": finding.id, "aria-pressed": String(finding === this.chosen),
      onclick: () => this.choose(finding) },
      markElement(verdictOf(finding.verdict)), make("b", {}, finding.id), ` ${finding.count} poses, `,
      spaced(finding.causes[0].cause), finding.solid ? ` “${finding.solid}”` : "", make("span", { class: "hint" }, ` ${signal}${fixes.length ? `, fix ${fixes.join(", ")}` : ""}${finding.reached ? "" : ", not reached from a start"}${this.became(finding)}`)));
  }

  /** Of a rig and what it was before: whether the other has the finding, too. */
  became(finding) {
    const { compared } = this;
    if (!compared) return "";
    return compared.new.includes(finding.id) ? ", new" : compared.cured.includes(finding.id) ? ", cured" : compared.unchanged.includes(finding.id) ? ", unchanged" : "";
  }

  choose(finding, stays = false) {
    this.chosen = finding;
    // The probe at fault stands out.
    const { probe } = finding.causes[0];
    for (const one of finding.pose.probes) one.dim = Boolean(probe) && finding.pose.probes.some((p) => p.name === probe) && one.name !== probe;
    for (const button of this.list.querySelectorAll("button"))
      button.setAttribute("aria-pressed", String(button.dataset.finding === finding.id));
    if (this.view) {
      this.view.setMoved(new Map(this.report.facings[finding.facing].moved));
      this.view.setPose(finding.pose);
      if (!stays) this.view.flyTo(...finding.pose.around, 0.8);
    }
    this.detail.replaceChildren(...this.tell(finding));
  }

  tell(finding) {
    const { pose } = finding;
    const signal = this.report.signals[finding.signal];
    const heads = ["cause", "change that cures it", "by", "cures here", "elsewhere", "adds missed", "adds false"];
    const more = this.report.findings.length;
    return [
      make("h3", {}, markElement(verdictOf(finding.verdict)), `${finding.id}: ${spaced(finding.verdict)} of “${signal.name}”`),
      make("p", {}, finding.sentence),
      make("p", { class: "hint" }, pose.words),
      make("p", {}, pose.truth_words),
      make("ol", { class: "readings", "aria-label": "Readings" }, pose.probes.map((probe) => make("li", { class: probe.on ? "on" : "" }, probe.words))),
      make("div", { class: "scroll", tabindex: 0, role: "region", "aria-label": "Table" }, make("table", { class: "causes" }, make("thead", {}, make("tr", {}, heads.map((h) => make("th", { scope: "col" }, h)))),
        make("tbody", {}, finding.causes.map(causeRow)))),
      this.commandLine(finding.command),
      make("div", { class: "bar" },
        make("button", { type: "button", onclick: () => this.step(-1), disabled: more < 2 }, "Previous finding"),
        make("button", { type: "button", onclick: () => this.step(1), disabled: more < 2 }, "Next finding")),
    ];
  }

  commandLine(command) {
    const said = make("span", { role: "status" });
    const copy = make("button", { type: "button", onclick: async () => {
      try {
        await navigator.clipboard.writeText(command);
        said.textContent = " copied";
      } catch {
        said.textContent = " cannot copy here: select it instead";
      }
    } }, "Copy");
    return make("p", { class: "command" }, "Reproduce: ", make("code", {}, command), " ", copy, said);
  }

  step(by) {
    const shown = this.report.findings.filter((finding) => this.filters.shows(finding));
    const at = shown.indexOf(this.chosen);
    const next = shown[(at + by + shown.length) % shown.length];
    if (next) this.choose(next);
  }

  /** A mark clicked: the body goes there, and every heading, stance and state judged at that place is told. */
  showMark(i) {
    const D = this.report.dimensions;
    const at = [...this.poses.positions.subarray(D * i, D * i + D)];
    this.chosen = null;
    for (const button of this.list.querySelectorAll("button")) button.setAttribute("aria-pressed", "false");
    const here = [i];
    for (let k = 0; k < this.poses.count; ++k) {
      if (k !== i && at.every((x, axis) => this.poses.positions[D * k + axis] === x)) here.push(k);
    }
    this.standAtPose(i);
    const inside = (finding) => finding.bounds[0].every((low, axis) => at[axis] >= low - 1e-4 && at[axis] <= finding.bounds[1][axis] + 1e-4);
    const near = this.report.findings.filter((finding) => inside(finding) && this.filters.shows(finding));
    const entry = (k) => {
      const facing = this.report.facings[this.poses.facings[k]];
      const rows = this.report.signals.map((signal, s) => {
        const verdict = this.poses.verdicts[k * this.report.signals.length + s];
        return make("li", {}, markElement(verdict), `${signal.name}: ${spaced(verdicts[verdict])}`);
      });
      return make("li", {}, make("button", { type: "button", onclick: () => this.standAtPose(k) },
        `${this.report.stances[facing.stance]}, heading (${facing.heading.map(plain).join(", ")})${facing.words}`), make("ul", { class: "plain" }, rows));
    };
    this.detail.replaceChildren(
      make("h3", {}, `Pose at (${at.map(plain).join(", ")})`),
      make("ol", { class: "plain states" }, here.slice(0, 24).map(entry)),
      near.length ? make("div", { class: "bar" }, "Findings here: ", near.slice(0, 6).map((finding) =>
        make("button", { type: "button", onclick: () => this.choose(finding) }, finding.id))) : "");
  }

  /** Draws the body at a pose that was judged; what its probes read there is not known to the page. */
  standAtPose(i) {
    if (!this.view) return;
    const D = this.report.dimensions;
    const facing = this.report.facings[this.poses.facings[i]];
    const { shape, size } = this.report.bodies[facing.body];
    this.view.setMoved(new Map(facing.moved));
    this.view.setPose({ anchor: [...this.poses.positions.subarray(D * i, D * i + D)], heading: facing.heading, body: shape, size, probes: [], truth: null });
  }
}
