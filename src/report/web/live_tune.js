// Tuning from the live bench: what may be otherwise, from where to where, and what came of it.
import { make, plain, toggle } from "./dom.js";

export class TunePanel {
  /** `bench`: { line, hello, say(promise) }. */
  constructor(bench) {
    this.bench = bench;
    this.free = new Map();
    this.list = make("div", { class: "fields" });
    this.says = make("div", { "aria-live": "polite" });
    this.weight = make("input", { type: "number", min: 0.01, step: "any", value: 1, class: "speed", "aria-label": "A missed contact weighs as much as so many false ones" });
    this.drill = bench.hello.drill ? make("input", { type: "checkbox", id: "tune-drill", checked: true }) : null;
    this.start = make("button", { type: "button", id: "tune", onclick: () => this.tune() }, "Tune");
    this.stop = make("button", { type: "button", id: "stop-tuning", onclick: () => this.bench.say(this.bench.line.ask({ ask: "stop_tuning" })) }, "Stop");
    this.element = make("div", {}, make("p", { class: "hint" }, "Numbers that are right, in the middle of what is right. Choose what may be otherwise, and from where to where; with nothing chosen, what the causes of findings name."),
      this.list, make("div", { class: "bar" }, make("label", { class: "check" }, "a missed contact weighs", this.weight, "false ones"),
        this.drill ? make("label", { class: "check" }, this.drill, `keeps what ${bench.hello.drill} expects`) : ""),
      make("div", { class: "bar" }, this.start, this.stop), this.says);
  }

  async tune() {
    const free = [...this.free].map(([path, ends]) => {
      const [from = null, to = null] = ends.map((input) => (input.value === "" ? null : Number(input.value)));
      return from === null && to === null ? path : { path, ...(from === null ? {} : { from }), ...(to === null ? {} : { to }) };
    });
    const answer = await this.bench.say(this.bench.line.ask({ ask: "tune", free, missed_weight: Number(this.weight.value), drill: this.drill?.checked ?? false }));
    if (answer) this.says.replaceChildren(make("p", {}, `searching ${answer.free.join(", ")}`), this.bar = make("progress", { max: 1, value: 0, "aria-label": "Part done" }));
  }

  /** Every setting of the rig: { path, number, now }. */
  set(settings) {
    const key = settings.map((setting) => setting.path).join("\n");
    if (key === this.key) return;
    this.key = key;
    this.free = new Map([...this.free].filter(([path]) => settings.some((setting) => setting.path === path)));
    const row = (setting) => this.row(setting);
    const choices = settings.filter((setting) => !setting.number);
    this.list.replaceChildren(...settings.filter((setting) => setting.number).map(row),
      make("details", { open: choices.some(({ path }) => this.free.has(path)) }, make("summary", {}, "Choices: layers, members, words"), choices.map(row)));
  }

  /** One setting that may be free; a number's ends, which are left empty for as far as makes sense. */
  row({ path, number, now }) {
    const short = path.replace(/^(probe|signal)\./, "");
    const ends = this.free.get(path) ?? (number ? ["from", "to"] : []).map((end) => make("input", { type: "number", step: "any", class: "speed", placeholder: end, "aria-label": `${short} ${end}` }));
    const place = make("span", { class: "control" });
    const show = () => place.replaceChildren(...(this.free.has(path) ? ends : []));
    const row = make("div", { class: "field" }, toggle(short, this.free.has(path), (pressed) => {
      if (pressed) this.free.set(path, ends);
      else this.free.delete(path);
      show();
    }, { class: "toggle pick", title: `${path}, now ${now}`, "data-free": path }), place);
    show();
    return row;
  }

  hear(news) {
    if (news.tell === "tuning") {
      if (this.bar) this.bar.value = news.data.done;
      return;
    }
    const { data } = news;
    if (data.refused) {
      this.says.replaceChildren(make("p", {}, data.refused));
      return;
    }
    const row = (s) => make("tr", {}, make("th", { scope: "row" }, s.path.replace(/^(probe|signal)\./, "")), make("td", {}, s.was), make("td", {}, make("b", {}, s.is)),
      make("td", {}, s.from === null ? "" : `${plain(s.from)} to ${plain(s.to)}`));
    this.says.replaceChildren(make("p", {}, data.better ? data.promise : "Nothing better was found: the rig stays as it is.", data.right ? " Nothing is wrong then." : "",
        data.broken_before ? ` Of the drill's expectations ${data.broken_before} were broken, ${data.broken_after} would be.` : ""),
      make("table", {}, make("thead", {}, make("tr", {}, ["setting", "was", "is", "as good within"].map((h) => make("th", { scope: "col" }, h)))), make("tbody", {}, data.settings.map(row))),
      make("p", { class: "hint" }, `${data.tried} rigs tried`),
      data.better ? make("button", { type: "button", id: "take-tuned", onclick: () => this.bench.say(this.bench.line.ask({ ask: "take_tuned" })) }, "Take these values") : "");
  }
}
