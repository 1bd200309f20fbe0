// Which marks and findings are shown, and the controls that say so.
import { make, spaced, toggle } from "./dom.js";
import { gravity, markElement, verdicts } from "./look.js";

/** A labelled choice; `options` are [value, words]. */
export function choice(label, options, onchange) {
  const select = make("select", { "data-choice": label, onchange: () => onchange(select.value) },
    options.map(([value, words]) => make("option", { value }, words)));
  return make("label", { class: "choice" }, make("span", {}, label), select);
}

export class Filters {
  constructor(report, onchange) {
    this.report = report;
    this.changed = onchange;
    this.signal = "";
    this.stance = "";
    this.cause = "";
    // In space, what is rightly clear hangs in the air before everything else.
    this.verdicts = new Set(report.dimensions === 2 ? [0, 1, 2, 3, 4, 5] : [0, 1, 2, 4, 5]);
    const changed = (key) => (value) => {
      this[key] = value;
      onchange();
    };
    const causes = [...new Set(report.findings.flatMap((finding) => finding.causes.map((cause) => cause.cause)))];
    const buttons = [1, 2, 4, 5, 0, 3].map((verdict) => toggle([markElement(verdict), spaced(verdicts[verdict])], this.verdicts.has(verdict), (pressed) => {
      if (pressed) this.verdicts.add(verdict);
      else this.verdicts.delete(verdict);
      onchange();
    }, { "data-verdict": verdicts[verdict] }));
    this.element = make("fieldset", { class: "filters" }, make("legend", {}, "Show"),
      choice("signal", [["", "all"], ...report.signals.map((s, i) => [String(i), s.name])], changed("signal")),
      report.stances.length > 1 ? choice("stance", [["", "all"], ...report.stances.map((s, i) => [String(i), s])], changed("stance")) : null,
      causes.length > 1 ? choice("cause", [["", "all"], ...causes.map((c) => [c, spaced(c)])], changed("cause")) : null,
      make("div", { class: "checks" }, buttons));
  }

  /** One signal by its number in words; all for none. */
  chooseSignal(signal) {
    const select = this.element.querySelector('select[data-choice="signal"]');
    if (![...select.options].some((option) => option.value === signal) || signal === this.signal) return;
    select.value = this.signal = signal;
    this.changed();
  }

  /** Chooses what another one has chosen, as far as there is that. */
  standAs(other) {
    for (const key of ["signal", "stance", "cause"]) {
      const select = this.element.querySelector(`select[data-choice="${key}"]`);
      if (!select || ![...select.options].some((option) => option.value === other[key])) continue;
      select.value = this[key] = other[key];
    }
    this.verdicts = other.verdicts;
    for (const button of this.element.querySelectorAll("[data-verdict]"))
      if (button.tagName === "BUTTON") button.setAttribute("aria-pressed", String(this.verdicts.has(verdicts.indexOf(button.dataset.verdict))));
  }

  shows(finding) {
    return (this.signal === "" || finding.signal === Number(this.signal)) &&
      (this.stance === "" || finding.stance === Number(this.stance)) &&
      (this.cause === "" || finding.causes.some((cause) => cause.cause === this.cause)) &&
      this.verdicts.has(verdicts.indexOf(finding.verdict));
  }

  /** The verdict of every pose, of the signal chosen or the gravest of all, and which poses are shown. */
  marks(poses) {
    const { report } = this;
    const signals = report.signals.length;
    const chosen = new Uint8Array(poses.count);
    const kept = new Uint32Array(poses.count);
    let shown = 0;
    // By cause, what is shown lies within the findings that have it.
    const boxes = this.cause === "" ? null : report.findings.filter((finding) => this.shows(finding)).map((f) => f.bounds);
    const D = report.dimensions;
    for (let i = 0; i < poses.count; ++i) {
      let verdict = 3;
      if (this.signal !== "") {
        verdict = poses.verdicts[i * signals + Number(this.signal)];
      } else {
        for (let s = 0; s < signals; ++s) {
          const other = poses.verdicts[i * signals + s];
          if (gravity[other] > gravity[verdict]) verdict = other;
        }
      }
      chosen[i] = verdict;
      if (!this.verdicts.has(verdict)) continue;
      if (this.stance !== "" && report.facings[poses.facings[i]].stance !== Number(this.stance)) continue;
      if (boxes && !boxes.some(([low, high]) => {
        for (let axis = 0; axis < D; ++axis) {
          const x = poses.positions[D * i + axis];
          if (x < low[axis] - 1e-4 || x > high[axis] + 1e-4) return false;
        }
        return true;
      })) continue;
      kept[shown++] = i;
    }
    return { positions: poses.positions, verdicts: chosen, shown: kept.subarray(0, shown), spacing: report.spacing };
  }
}
