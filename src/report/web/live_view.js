// The live bench: a body under the hand, the rig's fields, and every verdict as it changes.
import { floats, make, bytes, onceAFrame, plain, shorts, spaced, toggle } from "./dom.js";
import { Filters } from "./filters.js";
import { RigPanel } from "./live_fields.js";
import { Hand } from "./live_hand.js";
import { Line } from "./live_line.js";
import { Player, tickVerdict } from "./live_play.js";
import { TunePanel } from "./live_tune.js";
import { colors, markElement, verdicts } from "./look.js";
import { makeStage, repaint } from "./stage.js";
import { verdictTable } from "./survey_view.js";

const tabs = [["change", "What to change"], ["rig", "Rig"], ["verdicts", "Verdicts"], ["sheet", "Data sheet"], ["tune", "Tune"], ["text", "Text"]];

export class LiveView {
  constructor(data) {
    this.data = data;
    this.scene = data.scene;
    this.D = data.scene.dimensions;
    this.pose = { at: Array(this.D).fill(0), heading: null, stance: null, velocity: Array(this.D).fill(0), drive: Array(this.D).fill(0), grounded: false, time: 0 };
    this.rests = true;
    this.beside = false;
    this.hand = new Hand(this);
    this.report = null;
    this.said = make("output", { class: "said", role: "status" });
    this.element = make("div", { class: "report live" });
    this.line = new Line((news) => this.hear(news), (words) => this.lose(words));
    this.askPose = onceAFrame(() => this.ask());
    this.line.ask({ ask: "hello" }).then((hello) => this.begin(hello), (error) => this.lose(error.message));
  }

  begin(hello) {
    this.hello = hello;
    this.build();
    this.takeRig(hello.state);
    const linked = this.readAddress();
    if (!linked) {
      const start = hello.starts[0];
      this.pose.at = start ? start.at : this.scene.low.map((x, i) => (x + this.scene.high[i]) / 2);
      this.pose.heading = start ? start.heading : null;
    }
    hello.told.forEach((news) => this.hear(news));
    (this.early ?? []).forEach((news) => { if (news.tell !== "rig" || news.revision > this.state.revision) this.hear(news); });
    this.ask();
  }

  build() {
    this.stage = makeStage(this.scene);
    this.view = this.stage.view;
    this.dimmed = false;
    this.bar = make("div", { class: "bar pose-bar", role: "toolbar", "aria-label": "The body" });
    this.signals = make("ul", { class: "plain signals", "aria-label": "Signals here" });
    this.readings = make("ol", { class: "readings", "aria-label": "Readings here" });
    this.where = make("p", { class: "hint", id: "where" });
    this.panel = new RigPanel(this.D, (change) => this.edit(change), (question) => this.part(question), () => this.chosen());
    this.changes = make("div", { id: "changes" });
    this.verdictPlace = make("div", {});
    this.sheetPlace = make("div", {}, make("p", { class: "hint" }, "measuring …"));
    this.tuning = new TunePanel(this);
    this.textPlace = this.buildText();
    const places = { change: this.changes, rig: this.panel.element, verdicts: this.verdictPlace, sheet: this.sheetPlace, tune: this.tuning.element, text: this.textPlace };
    this.places = places;
    this.tabButtons = tabs.map(([key, words]) => make("button", { type: "button", role: "tab", "data-tab": key, "aria-selected": "false", onclick: () => this.show(key) }, words));
    this.undo = make("button", { type: "button", id: "undo", title: "Undo (Ctrl Z)", onclick: () => this.say(this.line.ask({ ask: "undo" })) }, "Undo");
    this.redo = make("button", { type: "button", id: "redo", title: "Redo (Ctrl Y)", onclick: () => this.say(this.line.ask({ ask: "redo" })) }, "Redo");
    this.save = make("button", { type: "button", id: "save", title: "Save (Ctrl S)", onclick: () => this.keep() }, "Save");
    this.standing = make("span", { class: "standing", id: "standing" });
    this.conflict = make("div", { class: "conflict", role: "alert" });
    const head = make("div", { class: "bar head" }, this.undo, this.redo, this.save, this.standing, this.said);
    this.player = new Player({ line: this.line, D: this.D, hello: this.hello, rig: () => this.rig, pose: () => this.pose, beside: () => this.beside, view: () => this.view,
      show: (frame) => this.showFrame(frame), over: () => this.ask(), say: (words) => { this.said.textContent = words; } });
    this.element.replaceChildren(
      make("div", { class: "main" }, this.stage.bar, this.stage.element, this.bar, this.player.element,
        make("div", { class: "here" }, make("section", {}, make("h2", {}, "Signals here"), this.signals), make("section", {}, make("h2", {}, "Readings here"), this.readings)), this.where),
      make("div", { class: "side" }, head, this.conflict, make("div", { class: "bar tabs", role: "tablist", "aria-label": "Panels" }, this.tabButtons), ...Object.values(places)));
    this.show("change");
    this.listen();
    if (this.view) {
      this.view.onpick = (i) => this.pickMark(i);
      this.view.leavesKeys = () => this.player.playing;
      this.view.grab = (point, screen) => this.hand.grab(point, screen);
      this.view.onhover = onceEvent((point) => this.hover(point));
      this.view.overlays.push((context) => this.hand.draw(context));
    }
  }

  listen() {
    document.addEventListener("keydown", (event) => {
      if (!this.element.isConnected) return;
      const typing = ["INPUT", "TEXTAREA", "SELECT"].includes(event.target.tagName);
      if ((event.ctrlKey || event.metaKey) && !event.altKey) {
        const act = { z: () => (event.shiftKey ? this.redo : this.undo).click(), y: () => this.redo.click(), s: () => this.save.click() }[event.key.toLowerCase()];
        if (!act || (typing && event.key !== "s" && event.target.type !== "range")) return;
        event.preventDefault();
        act();
        return;
      }
      if (typing) return;
      if (this.player.keydown(event)) event.preventDefault();
      else if (!this.player.playing && !this.player.tape) this.raise({ u: 1, U: 0.1, d: -1, D: -0.1 }[event.key] ?? 0);
    });
    document.addEventListener("keyup", (event) => this.player.keyup(event));
    addEventListener("hashchange", () => { if (this.readAddress()) this.ask(); });
    addEventListener("blur", () => this.player.down.clear());
  }

  show(key) {
    this.tab = key;
    for (const button of this.tabButtons) button.setAttribute("aria-selected", String(button.dataset.tab === key));
    for (const [name, place] of Object.entries(this.places)) place.hidden = name !== key;
    this.view?.redraw();
    this.noteAddress();
  }

  // What the bench says.

  hear(news) {
    // What comes before the page is built is heard after.
    if (!this.panel) {
      (this.early ??= []).push(news);
      return;
    }
    if (news.tell === "rig") this.takeRig(news);
    else if (news.tell === "level") this.takeLevel(news.data);
    else if (news.tell === "tuning" || news.tell === "tuned") this.tuning.hear(news);
    else if (news.tell === "hunting" || news.tell === "hunted") this.player.hearHunt(news);
    else if (this.state && news.revision !== this.state.revision) return;
    else if (news.tell === "verdicts" || news.tell === "advice") this.takeSurvey(news);
    else if (news.tell === "before") { this.beforeReport = news.data; this.drawVerdicts(); }
    else if (news.tell === "sheet") this.takeSheet(news.data);
    else if (news.tell === "trouble") this.changes.replaceChildren(make("p", { class: "notice", role: "alert" }, news.data));
  }

  takeRig(state) {
    this.state = state;
    this.rig = state.rig;
    if (!this.panel) return;
    this.panel.set(state.rig);
    this.undo.disabled = !state.can_undo;
    this.redo.disabled = !state.can_redo;
    this.save.disabled = state.saved;
    this.standing.textContent = state.saved ? `${state.file}, saved` : `${state.file}, changed`;
    this.conflict.replaceChildren(...(state.conflict === null ? [] : this.tellConflict(state)), ...(state.notice ? [make("p", {}, state.notice)] : []));
    if (document.activeElement !== this.area) this.area.value = state.text;
    this.changes.classList.add("old");
    this.sheetPlace.classList.add("old");
    this.drawBar();
    if (this.hello) this.askPose();
    this.tuning.set(state.settings);
  }

  tellConflict(state) {
    return [make("p", {}, make("b", {}, `${state.file} was changed by somebody else while changes here are not saved.`)),
      make("div", { class: "bar" },
        make("button", { type: "button", onclick: () => this.say(this.line.ask({ ask: "take_theirs" })) }, "Take the file's"),
        make("button", { type: "button", onclick: () => this.say(this.line.ask({ ask: "keep_mine" })) }, "Keep what is here")),
      make("details", { open: true }, make("summary", {}, "Both texts"), make("div", { class: "both" },
        make("div", {}, make("h3", {}, "In the file"), make("pre", { tabindex: 0, role: "region", "aria-label": "The file's text" }, state.conflict)), make("div", {}, make("h3", {}, "Here"), make("pre", { tabindex: 0, role: "region", "aria-label": "The text here" }, state.text))))];
  }

  takeLevel(scene) {
    this.scene = scene;
    const old = this.stage;
    this.stage = makeStage(scene);
    old.bar.replaceWith(this.stage.bar);
    old.element.replaceWith(this.stage.element);
    const before = this.view;
    this.view = this.stage.view;
    if (this.view && before) {
      for (const key of ["onpick", "grab", "onhover", "leavesKeys"]) this.view[key] = before[key];
      this.view.overlays = before.overlays;
      this.view.standAs(before);
      before.dispose?.();
    }
    this.ask();
  }

  takeSurvey(news) {
    const { data } = news;
    this.report = data;
    this.whole = news.tell === "advice";
    this.poses = { count: data.poses.count, positions: floats(data.poses.anchors), facings: shorts(data.poses.facings), verdicts: bytes(data.poses.verdicts) };
    const key = JSON.stringify([data.signals.map((s) => s.name), data.stances, data.findings.length > 0]);
    if (key !== this.filterKey) {
      const old = this.filters;
      this.filterKey = key;
      this.filters = new Filters(data, () => this.drawMarks());
      if (old) this.filters.standAs(old);
    }
    this.filters.report = data;
    this.drawMarks();
    this.drawVerdicts();
    if (this.whole) this.drawChanges();
    else this.changes.classList.add("old");
  }

  drawMarks() {
    if (!this.poses) return;
    this.view?.setMarks(this.filters.marks(this.poses));
  }

  drawVerdicts() {
    if (!this.report) return;
    this.verdictPlace.replaceChildren(verdictTable(this.report, this.beforeReport, false), make("p", { class: "hint" }, `Differences: against the rig ${this.state.before}. ${this.report.summary}`),
      make("div", { class: "bar" }, make("button", { type: "button", id: "before-now", onclick: () => this.say(this.line.ask({ ask: "before" })) }, "Hold it against the rig as it is now"),
        make("label", { class: "check" }, "or a file", make("input", { type: "file", id: "before-file", accept: ".toml", onchange: (event) => this.holdAgainst(event.target.files[0]) }))), this.filters.element);
  }

  async holdAgainst(file) {
    if (file) await this.say(this.line.ask({ ask: "before", name: file.name, text: await file.text() }));
  }

  drawChanges() {
    const { report } = this;
    this.changes.classList.remove("old");
    const wrong = report.signals.some((s) => s.poses[1] + s.poses[2] > 0);
    const fixes = report.fixes.map((fix, number) => {
      const finding = report.findings.find((f) => f.fixes.includes(number)) ?? report.findings[fix.findings[0]];
      return make("li", {}, make("b", {}, fix.change), make("span", {}, fix.promise || "not surveyed anew"),
        make("span", { class: "bar" },
          make("button", { type: "button", "data-fix": number, disabled: !fix.can_be_made, onclick: () => this.say(this.line.ask({ ask: "fix", number })) }, "Make this change"),
          finding ? make("button", { type: "button", onclick: () => this.goTo(finding) }, "Show") : null));
    });
    const findings = report.findings.map((finding) => make("li", {}, make("button", { type: "button", "data-finding": finding.id, onclick: () => this.goTo(finding) },
      markElement(verdicts.indexOf(finding.verdict)), finding.sentence)));
    this.changes.replaceChildren(
      make("h2", {}, !wrong ? "Nothing is wrong: every signal agrees with truth" : fixes.length ? "What to change, best first" : "Nothing that was tried makes it less wrong"),
      make("ol", { class: "live-fixes" }, fixes),
      report.findings.length ? make("h3", {}, `${report.findings.length} findings, worst first`) : "", make("ul", { class: "plain findings" }, findings),
      make("p", { class: "hint" }, `${report.milliseconds} ms`), ...report.untested.map((line) => make("p", { class: "untested" }, line)));
  }

  /** Puts the body where a finding is worst. */
  goTo(finding) {
    const facing = this.report.facings[finding.facing];
    this.standAt(finding.pose.anchor, facing);
    this.view?.flyTo(...finding.pose.around, 0.7);
  }

  /** Moves the body, which rests there or not. */
  goAt(at) {
    this.pose.at = at;
    this.ask();
  }

  /** From now on the body stays where it is put. */
  floats() {
    if (!this.rests) return;
    this.rests = false;
    this.drawBar();
  }

  /** Up by so many twentieths of the body. */
  raise(steps) {
    if (!steps || !this.answer) return;
    this.floats();
    const by = (steps * this.answer.pose.size) / 20;
    this.goAt(this.pose.at.map((x, i) => x + by * this.scene.up[i]));
  }

  standAt(at, facing) {
    this.rests = false;
    this.pose = { at: [...at], heading: facing.heading, stance: this.report.stances[facing.stance], velocity: facing.velocity, drive: facing.drive,
                  grounded: facing.grounded, time: facing.seconds };
    this.drawBar();
    this.ask();
  }

  pickMark(i) {
    const D = this.D;
    const at = [...this.poses.positions.subarray(D * i, D * i + D)];
    this.standAt(at, this.report.facings[this.poses.facings[i]]);
  }

  takeSheet(sheet) {
    this.sheetPlace.classList.remove("old");
    const row = (r) => make("tr", { class: r.wrong ? "wrong-row" : "" }, make("th", { scope: "row" }, r.line), make("td", { class: "words" }, r.signal),
      make("td", { class: "words" }, r.measured), make("td", { class: "words" }, r.intended), make("td", { class: "words wrong" }, r.wrong));
    this.sheetPlace.replaceChildren(make("p", { class: "hint" }, `On fixtures made for the body, ${sheet.stance}: where each signal is on, and where it is meant to be. ${sheet.casts} casts, ${sheet.overlaps} overlaps, ${sheet.pieces} pieces a reading.`),
      make("div", { class: "scroll", tabindex: 0, role: "region", "aria-label": "Table" }, make("table", { class: "sheet" }, make("thead", {}, make("tr", {}, ["on", "signal", "measured", "intended", "wrong"].map((h) => make("th", { scope: "col" }, h)))),
        make("tbody", {}, sheet.rows.map(row)))));
  }

  // What is done to the rig.

  edit(change) {
    const question = { ask: "edit", ...change };
    if (change.gesture) this.line.latest("edit", question, () => { this.said.textContent = ""; }, (error) => { this.said.textContent = error.message; });
    else this.say(this.line.ask(question)).catch(() => this.panel.drawForm());
  }

  async part(question) {
    return this.say(this.line.ask({ ask: "part", ...question }), true);
  }

  /** Says what was refused; nothing where all went well. */
  async say(promise, throws) {
    try {
      const answer = await promise;
      this.said.textContent = "";
      return answer;
    } catch (error) {
      this.said.textContent = error.message;
      if (throws) throw error;
      this.panel.drawForm();
      return null;
    }
  }

  async keep() {
    const answer = await this.say(this.line.ask({ ask: "save" }));
    if (answer) this.said.textContent = `saved to ${answer.saved}`;
  }

  chosen() {
    this.view?.redraw();
    this.drawPose();
    this.noteAddress();
  }

  buildText() {
    this.area = make("textarea", { class: "rig-text", spellcheck: "false", "aria-label": "The rig file's text" });
    const apply = () => this.say(this.line.ask({ ask: "text", text: this.area.value })).then((answer) => { if (answer) this.area.blur(); });
    return make("div", {}, make("div", { class: "bar" }, make("button", { type: "button", id: "apply-text", onclick: apply }, "Take this text"),
      make("button", { type: "button", onclick: () => { this.area.value = this.state.text; } }, "As it is")), this.area);
  }

  // The body.

  ask() {
    if (!this.state) return;
    this.noteAddress();
    const number = this.asked = (this.asked ?? 0) + 1;
    this.line.latest("pose", { ask: "pose", pose: { ...this.pose }, rests: this.rests, beside: this.beside }, (answer) => this.takePose(answer, number === this.asked),
      (error) => { this.said.textContent = error.message; });
  }

  /** What was asked before the body was moved on does not move it back. */
  takePose(answer, newest) {
    if (this.player.tape) return;
    this.answer = answer;
    if (newest) Object.assign(this.pose, { at: answer.pose.anchor, heading: answer.pose.heading, stance: answer.pose.stance });
    this.drawPose();
    this.drawBar();
    if (!this.shown) {
      this.shown = true;
      if (!this.linkedView) {
        const [low, high] = answer.pose.around;
        const size = answer.pose.size;
        this.view?.flyTo(low.map((x) => x - 2 * size), high.map((x) => x + 2 * size), 0.9);
      }
    }
  }

  drawPose() {
    const { answer } = this;
    if (!answer) return;
    const wrong = answer.pose.signals.find((s) => s.verdict === 1 || s.verdict === 2);
    const chosen = this.panel.now;
    answer.pose.probes.forEach((probe) => { probe.dim = chosen.table === "probe" && this.tab === "rig" && probe.name !== chosen.name; });
    answer.pose.truth = wrong ? { at: wrong.at ?? answer.pose.anchor, verdict: wrong.verdict } : null;
    this.view?.setMoved(new Map(answer.moved));
    this.view?.setPose(answer.pose);
    this.view?.setBeside?.(answer.before);
    this.signals.replaceChildren(...answer.pose.signals.map((s) => make("li", { class: s.verdict === 1 || s.verdict === 2 ? "wrong" : "", "data-signal": s.name },
      s.verdict === undefined ? make("span", { class: "mark-space" }) : markElement(s.verdict), make("b", {}, s.name), ` ${s.verdict === undefined ? "" : `${spaced(verdicts[s.verdict])}: `}${s.words}`)));
    this.readings.replaceChildren(...answer.pose.probes.map((probe) => make("li", { class: probe.on ? "on" : "" }, probe.words)));
    this.where.textContent = `Body at (${answer.pose.anchor.map(plain).join(", ")})${answer.pose.clips ? `. It overlaps “${answer.pose.clips}”: no verdict counts here` : ""}`;
  }

  showFrame(frame) {
    const { pose } = frame;
    const names = this.rig.signals;
    this.view?.setMoved(new Map(frame.moved));
    this.view?.setPose({ ...pose, anchor: frame.at, truth: null });
    this.view?.setBeside?.(frame.before);
    this.keepInView(frame.at);
    this.where.textContent = frame.clip > 0 ? `The body is ${plain(frame.clip)} deep in something` : "";
    this.signals.replaceChildren(...frame.signals.map((bits, s) => make("li", {}, markElement(tickVerdict(bits)), make("b", {}, names[s]?.name ?? ""), ` ${bits & 1 ? "on" : "off"}`)));
    this.readings.replaceChildren(...pose.probes.map((probe) => make("li", { class: probe.on ? "on" : "" }, probe.words)));
  }

  keepInView(at) {
    if (!this.view?.width || this.D !== 2) return;
    const [x, y] = this.view.screenOf(at);
    const by = (value, size) => (value < 0.12 * size || value > 0.88 * size ? 0.5 * size - value : 0);
    const [across, down] = [by(x, this.view.width), by(y, this.view.height)];
    if (across || down) this.view.pan(across, down);
  }

  drawBar() {
    if (!this.rig || !this.bar) return;
    const key = JSON.stringify([this.rig.stances, this.pose, this.rests, this.beside]);
    if (key === this.barKey || (this.bar.contains(document.activeElement) && document.activeElement.type === "number")) return;
    this.barKey = key;
    const { pose } = this;
    const forward = pose.heading ?? this.scene.up.map((_, i) => (i === 0 ? 1 : 0));
    const set = (change) => { Object.assign(this.pose, change); this.drawBar(); this.ask(); };
    const scaled = (v, s) => v.map((x) => x * s + 0);
    const stance = make("select", { "aria-label": "Stance", onchange: () => set({ stance: stance.value }) }, this.rig.stances.map((s) => make("option", { value: s, selected: s === pose.stance }, s)));
    const turn = this.D === 2 ? make("button", { type: "button", id: "turn", onclick: () => set({ heading: scaled(forward, -1) }) }, this.view && forward[0] * this.view.right[0] + forward[1] * this.view.right[1] < 0 ? "looks ←" : "looks →")
      : this.turnSlider(forward, set);
    const along = pose.drive.reduce((sum, x, i) => sum + x * forward[i], 0);
    const drive = make("select", { "aria-label": "Drive", onchange: () => set({ drive: scaled(forward, Number(drive.value)) }) },
      [[0, "no drive"], [1, "drive forward"], [-1, "drive back"]].map(([v, w]) => make("option", { value: v, selected: Math.abs(along - v) < 0.5 }, w)));
    const parts = [pose.velocity.reduce((sum, x, i) => sum + x * forward[i], 0), pose.velocity.reduce((sum, x, i) => sum + x * this.scene.up[i], 0)];
    const speed = (i, words) => {
      const input = make("input", { type: "number", step: "any", class: "speed", "aria-label": words, value: Number(parts[i].toPrecision(5)), onchange: () => {
        parts[i] = Number(input.value);
        set({ velocity: forward.map((x, k) => x * parts[0] + this.scene.up[k] * parts[1]) });
      } });
      return make("label", { class: "check", title: "length a second, forward and up" }, words, input);
    };
    const time = make("input", { type: "range", min: 0, max: 60, step: 0.05, value: pose.time, "aria-label": "Time", oninput: () => { this.pose.time = Number(time.value); this.ask(); } });
    this.bar.replaceChildren(this.rig.stances.length > 1 ? stance : "", turn, drive, speed(0, "speed"), speed(1, "up"),
      toggle("remembers ground", pose.grounded, (on) => set({ grounded: on })),
      this.hello.moves ? make("label", { class: "check" }, "time", time) : "",
      toggle("rests", this.rests, (on) => { this.rests = on; this.drawBar(); this.ask(); }, { id: "rests", title: "Puts the body down on what is nearest below or above" }),
      toggle("before", this.beside, (on) => { this.beside = on; this.drawBar(); this.ask(); }, { id: "beside", title: `The rig ${this.state.before}, drawn dashed` }),
      toggle("ruler", this.hand.ruler !== null, (on) => { this.hand.ruler = on ? {} : null; this.view?.redraw(); }, { id: "ruler", title: "Drag to measure a distance and an angle" }));
  }

  turnSlider(forward, set) {
    const up = this.scene.up;
    const some = Math.abs(up[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0];
    const dot = some.reduce((sum, x, i) => sum + x * up[i], 0);
    const first = some.map((x, i) => x - dot * up[i]);
    const length = Math.hypot(...first);
    const a = first.map((x) => x / length);
    const b = [up[1] * a[2] - up[2] * a[1], up[2] * a[0] - up[0] * a[2], up[0] * a[1] - up[1] * a[0]];
    const angle = Math.atan2(forward.reduce((s, x, i) => s + x * b[i], 0), forward.reduce((s, x, i) => s + x * a[i], 0));
    const slider = make("input", { type: "range", min: -180, max: 180, step: 1, value: Math.round((angle * 180) / Math.PI), id: "turn", "aria-label": "Heading, degrees", oninput: () => {
      const t = (Number(slider.value) * Math.PI) / 180;
      this.pose.heading = a.map((x, i) => x * Math.cos(t) + b[i] * Math.sin(t));
      this.ask();
    } });
    return make("label", { class: "check" }, "heading", slider);
  }

  hover(point) {
    const number = this.D === 2 ? this.view.solidAt(point) : this.view.surfaceAt(...point)?.solid;
    const solid = number === null || number === undefined ? null : this.scene.solids[number];
    const at = this.D === 2 ? `(${point.map(plain).join(", ")}) ` : "";
    this.view.canvas.title = solid ? `${solid.name}, layer ${this.scene.layers[solid.layer]}` : "";
    this.where.textContent = at + (solid ? `“${solid.name}”, layer ${this.scene.layers[solid.layer]}` : "");
  }

  // The address holds what is looked at.

  noteAddress() {
    if (!this.hello) return;
    clearTimeout(this.noting);
    this.noting = setTimeout(() => {
      const p = this.pose;
      const words = new URLSearchParams({ at: p.at.map(plainer).join(","), ...(p.heading ? { heading: p.heading.map(plainer).join(",") } : {}), ...(p.stance ? { stance: p.stance } : {}),
        ...(p.velocity.some((x) => x) ? { velocity: p.velocity.map(plainer).join(",") } : {}), ...(p.drive.some((x) => x) ? { drive: p.drive.map(plainer).join(",") } : {}),
        ...(p.grounded ? { grounded: "1" } : {}), ...(p.time ? { time: p.time } : {}), rests: this.rests ? "1" : "0", tab: this.tab,
        owner: `${this.panel.now.table}.${this.panel.now.name}`, ...(this.view?.whereabouts ? { view: this.view.whereabouts() } : {}) });
      history.replaceState(null, "", `#${words}`);
    }, 300);
  }

  readAddress() {
    const words = new URLSearchParams(location.hash.slice(1));
    const numbers = (key, count) => {
      const list = (words.get(key) ?? "").split(",").map(Number);
      return words.has(key) && list.length === count && list.every(Number.isFinite) ? list : null;
    };
    const at = numbers("at", this.D);
    if (!at) return false;
    Object.assign(this.pose, { at, heading: numbers("heading", this.D), stance: words.get("stance"), velocity: numbers("velocity", this.D) ?? Array(this.D).fill(0),
      drive: numbers("drive", this.D) ?? Array(this.D).fill(0), grounded: words.get("grounded") === "1", time: Number(words.get("time") ?? 0) || 0 });
    this.rests = words.get("rests") !== "0";
    const tab = tabs.find(([key]) => key === words.get("tab"));
    if (tab) this.show(tab[0]);
    const [table, ...name] = (words.get("owner") ?? "").split(".");
    if (this.panel.owners().some((o) => o.table === table && o.name === name.join("."))) this.panel.choose(table, name.join("."));
    if (words.has("view") && this.view?.standAt) this.linkedView = this.view.standAt(words.get("view"));
    return true;
  }

  repaint() {
    if (this.stage) repaint(this.stage, this.scene);
  }

  lose(words) {
    this.said.textContent = words;
    this.said.setAttribute("role", "alert");
    if (!this.hello) this.element.replaceChildren(make("main", { role: "alert", class: "notice" }, make("p", {}, words)));
  }
}

const plainer = (x) => String(Number(x.toPrecision(7)));

/** At most one call a frame, with the last argument. */
function onceEvent(call) {
  let last;
  const draw = onceAFrame(() => call(last));
  return (argument) => { last = argument; draw(); };
}
