// A rig's fields as controls: sliders, choices and lists, from what the bench says of each.
import { make, plain, roundStep, toggle } from "./dom.js";

const namesOf = { 1: "layers", 2: "stances", 3: "probes", 4: "signals" };

/** What a slider goes from and to: the field's limits, or as far as makes sense beside the body. */
function rangeOf(field, value, size) {
  const wide = { length: 2 * size, degrees: 180, s: 1, "length/s": 8 * size }[field.unit] ?? 10;
  const signed = field.least === null;
  const high = field.most ?? Math.max(wide, 2 * Math.abs(value));
  const low = field.least ?? (signed ? -Math.max(wide, 2 * Math.abs(value)) : 0);
  return { low, high, step: roundStep((high - low) / 2000) };
}

const tidy = (x) => Number(Number(x).toPrecision(7));

/** A number as a slider and as digits; `change(x, gesture)`. */
export class NumberControl {
  constructor(label, field, value, size, change) {
    this.size = size;
    this.field = field;
    this.held = false;
    this.gesture = 0;
    this.slider = make("input", { type: "range", "aria-label": `${label}, slider` });
    this.digits = make("input", { type: "number", step: "any", "aria-label": label });
    this.element = make("span", { class: "number" }, this.slider, this.digits);
    this.slider.addEventListener("pointerdown", () => { this.held = true; this.gesture = NumberControl.gestures++; });
    for (const end of ["pointerup", "pointercancel"]) this.slider.addEventListener(end, () => { this.held = false; });
    this.slider.addEventListener("keydown", () => { this.gesture = NumberControl.gestures++; });
    this.slider.addEventListener("input", () => {
      const x = this.field.above && Number(this.slider.value) <= this.field.least ? this.field.least + Number(this.slider.step) : Number(this.slider.value);
      this.digits.value = tidy(x);
      change(tidy(x), `slide ${this.gesture}`);
    });
    this.digits.addEventListener("change", () => {
      if (this.digits.value !== "") change(Number(this.digits.value), "");
    });
    this.set(value);
  }

  set(value) {
    if (this.held || document.activeElement === this.digits) return;
    const { low, high, step } = rangeOf(this.field, value ?? 0, this.size);
    if (this.slider.max === "" || Number(this.slider.max) < value || Number(this.slider.min) > value || this.slider.dataset.made !== "1")
      Object.assign(this.slider, { min: low, max: high, step });
    this.slider.dataset.made = "1";
    this.slider.value = value ?? low;
    this.digits.value = value === null ? "" : tidy(value);
  }
}
NumberControl.gestures = 1;

function selectOf(label, options, value, change) {
  const select = make("select", { "aria-label": label, onchange: () => change(select.value === "" ? null : select.value, "") },
    options.map(([key, words]) => make("option", { value: key }, words)));
  select.value = value ?? "";
  return select;
}

/** One field's row; `set(field)` takes another value of the same field. */
class FieldRow {
  constructor(owner, field, rig, change) {
    this.rig = rig;
    this.change = change;
    this.label = owner ? `${owner}, ${field.key}` : field.key;
    this.body = make("span", { class: "control" });
    const unit = field.unit === "degrees" ? "°" : field.unit;
    this.element = make("div", { class: "field", "data-key": field.key, title: `${field.meaning}. Standard: ${field.standard}` },
      make("span", { class: "key" }, field.key, unit ? make("small", {}, ` ${unit}`) : null), this.body);
    this.build(field);
  }

  build(field) {
    this.field = field;
    this.numbers = null;
    this.shape = JSON.stringify([field.type, Array.isArray(field.value) && typeof field.value[0] === "number" ? field.value.length : typeof field.value]);
    this.body.replaceChildren(...[this.controls(field)].flat());
  }

  controls(field) {
    const { change, label, rig } = this;
    const known = namesOf[field.names] === "layers" || namesOf[field.names] === "stances" ? rig[namesOf[field.names]]
      : namesOf[field.names] ? rig[namesOf[field.names]].map((one) => one.name) : [];
    switch (field.type) {
      case "number": case "integer": case "number or table":
        this.numbers = [new NumberControl(label, field, field.value, rig.size, change)];
        return this.numbers[0].element;
      case "list of two numbers": case "vector":
        return this.several(field);
      case "boolean":
        return toggle(field.value ? "yes" : "no", field.value, (pressed) => change(pressed, ""), { "aria-label": label });
      case "list of strings":
        return make("span", { class: "names" }, known.map((name) => toggle(name, field.value === null ? false : field.value.includes(name), () => {
          const now = field.value ?? [];
          change(now.includes(name) ? now.filter((n) => n !== name) : [...now, name], "");
        }, { class: "toggle", "aria-label": `${label}: ${name}` })), field.value === null ? make("small", {}, field.standard) : null);
      case "string or vector": {
        const words = ["down", "up", "forward", "backward", ...(rig.D === 3 ? ["left", "right"] : []), "drive", "velocity"];
        const chosen = typeof field.value === "string" ? field.value : "a vector";
        const select = selectOf(label, [...words, "a vector"].map((w) => [w, w]), chosen, (word) => {
          if (word !== "a vector") change(word, "");
          else change(rig.D === 3 ? [1, -1, 0] : [1, -1], "");
        });
        return typeof field.value === "string" ? select : [select, ...this.several(field)];
      }
      case "list of members":
        return this.members(field);
      default:
        if (field.words.length > 0)
          return selectOf(label, [...(field.value === null ? [["", field.standard]] : []), ...field.words.map((w) => [w, w])], field.value, change);
        if (known.length > 0) return selectOf(label, [["", field.standard], ...known.map((w) => [w, w])], field.value, change);
        return make("input", { type: "text", "aria-label": label, value: field.value ?? "", onchange: (event) => change(event.target.value, "") });
    }
  }

  several(field) {
    const values = field.value ?? [];
    const parts = field.type === "list of two numbers" ? ["from", "to"] : ["forward", "up", "right"];
    this.numbers = values.map((value, i) => new NumberControl(`${this.label} ${parts[i]}`, field, value, this.rig.size, (x, gesture) => {
      const all = [...this.field.value];
      all[i] = x;
      this.field.value = all;
      this.change(all, gesture);
    }));
    return this.numbers.map((number, i) => make("label", { class: "part" }, make("small", {}, parts[i]), number.element));
  }

  members(field) {
    const now = (field.value ?? []).map((member) => member.text);
    const chips = (field.value ?? []).map((member) => make("button", { type: "button", class: "chip", "aria-label": `${this.label}: take ${member.text} out`,
      onclick: () => this.change(now.filter((text) => text !== member.text).map(unquoted), "") }, unquoted(member.text), " ×"));
    const others = [...this.rig.probes, ...this.rig.signals].map((one) => one.name).filter((name) => !(field.value ?? []).some((m) => m.name === name));
    const add = make("select", { "aria-label": `${this.label}: add`, onchange: () => this.change([...now.map(unquoted), add.value], "") },
      make("option", { value: "" }, "add …"), others.map((name) => make("option", { value: name }, name)));
    return [...chips, add];
  }

  set(field) {
    const shape = JSON.stringify([field.type, Array.isArray(field.value) && typeof field.value[0] === "number" ? field.value.length : typeof field.value]);
    if (!this.numbers || shape !== this.shape) {
      if (JSON.stringify(field) !== JSON.stringify(this.field) || this.numbers) this.build(field);
      return;
    }
    this.field = field;
    const values = Array.isArray(field.value) ? field.value : [field.value];
    this.numbers.forEach((number, i) => number.set(values[i]));
  }
}

/** A member's text is a quoted name, or a table that is kept as it is written. */
const unquoted = (text) => (text.startsWith('"') ? JSON.parse(text) : text);

/** All fields of one owner. */
export class FieldForm {
  constructor(table, name, fields, rig, edit) {
    this.table = table;
    this.name = name;
    this.rows = new Map();
    this.element = make("div", { class: "fields" }, fields.map((field) => {
      const row = new FieldRow(name, field, rig, (value, gesture) => edit({ table, name, key: field.key, value, gesture }));
      this.rows.set(field.key, row);
      return row.element;
    }));
  }

  /** False where the fields are others now, so that the form has to be made anew. */
  set(fields, rig) {
    if (fields.length !== this.rows.size || fields.some((field) => !this.rows.has(field.key))) return false;
    for (const field of fields) {
      const row = this.rows.get(field.key);
      row.rig = rig;
      row.set(field);
    }
    return true;
  }
}

/** The rig: probes and signals to choose from, and the fields of the one chosen; the intent below. */
export class RigPanel {
  /** `edit(change)`, `part(question)` as the bench takes them; `chosen(probe)` when one is picked. */
  constructor(D, edit, part, chosen) {
    this.D = D;
    this.edit = edit;
    this.part = part;
    this.chosen = chosen;
    this.now = { table: "probe", name: "" };
    this.list = make("div", { class: "owners", role: "listbox", "aria-label": "Probes, signals and the intent" });
    this.tools = make("div", { class: "bar" });
    this.place = make("div", {});
    this.element = make("div", { class: "rig" }, this.list, this.tools, this.place);
  }

  set(rig) {
    rig.D = this.D;
    this.rig = rig;
    const owners = this.owners();
    if (!owners.some((o) => o.table === this.now.table && o.name === this.now.name)) this.now = { table: owners[0].table, name: owners[0].name };
    const names = JSON.stringify(owners.map((o) => [o.table, o.name, o.kind]));
    if (names !== this.names) {
      this.names = names;
      this.drawList();
      this.form = null;
    }
    const owner = this.owner();
    if (!this.form || this.form.table !== owner.table || this.form.name !== owner.name || !this.form.set(owner.fields, rig)) this.drawForm();
  }

  owners() {
    return [...this.rig.probes.map((p) => ({ table: "probe", name: p.name, kind: p.kind, fields: p.fields })),
      ...this.rig.signals.map((s) => ({ table: "signal", name: s.name, kind: s.claims ?? "helper", fields: s.fields })),
      { table: "intent", name: "", kind: "", fields: this.rig.intent }];
  }

  owner() {
    return this.owners().find((o) => o.table === this.now.table && o.name === this.now.name);
  }

  choose(table, name) {
    this.now = { table, name };
    this.drawList();
    this.drawForm();
    this.chosen();
  }

  drawList() {
    const entry = (o, number) => make("button", { type: "button", role: "option", "data-owner": `${o.table} ${o.name}`,
      "aria-selected": String(o.table === this.now.table && o.name === this.now.name), onclick: () => this.choose(o.table, o.name) },
      number === null ? null : make("b", {}, String(number), " "), o.name || "intent", o.kind ? make("small", {}, ` ${o.kind}`) : null);
    let number = 0;
    this.list.replaceChildren(...this.owners().map((o) => entry(o, o.table === "probe" ? ++number : null)));
    const kind = make("select", { "aria-label": "Kind of the probe to add", onchange: () => {
      if (kind.value) this.part({ how: "add", kind: kind.value }).then((answer) => this.choose("probe", answer.name), () => {});
    } }, make("option", { value: "" }, "add a probe …"), ["ray", "cast", "zone", "shift", "contact"].map((k) => make("option", { value: k }, k)));
    const { table, name } = this.now;
    const own = table !== "intent";
    const rename = own ? make("input", { type: "text", value: name, "aria-label": `Name of ${table} ${name}`, onchange: () =>
      this.part({ how: "rename", table, name, to: rename.value }).then(() => this.choose(table, rename.value), () => { rename.value = name; }) }) : null;
    this.tools.replaceChildren(kind, ...(own ? [rename,
      table === "probe" ? make("button", { type: "button", onclick: () => this.part({ how: "copy", table, name }).then((a) => this.choose("probe", a.name), () => {}) }, "Copy") : "",
      make("button", { type: "button", onclick: () => this.part({ how: "remove", table, name }).catch(() => {}) }, "Remove")] : []));
  }

  drawForm() {
    const owner = this.owner();
    if (!owner) return;
    this.form = new FieldForm(owner.table, owner.name, owner.fields, this.rig, this.edit);
    this.place.replaceChildren(this.form.element);
  }
}
