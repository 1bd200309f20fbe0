// The level in three dimensions: orbit, pan, zoom, layers, a cutting plane, verdict marks, a body with its
// probes.
import { floats, make, onceAFrame } from "./dom.js";
import { colors, gravity, layerFill, markSprite, nextMark, paintOrder, theme, verdictColor } from "./look.js";
import { drawSigns } from "./signs.js";

/* global THREE */

const vector = (p) => new THREE.Vector3(p[0], p[1], p[2]);

/** A browser has few of these to give: whichever view draws takes it. */
let shared = null;
function sharedRenderer() {
  if (!shared) {
    shared = new THREE.WebGLRenderer({ antialias: true, preserveDrawingBuffer: true });
    shared.localClippingEnabled = true;
    shared.domElement.className = "space-canvas";
    shared.domElement.setAttribute("aria-hidden", "true");
  }
  return shared;
}

/** Everything that was drawn with it is given back, but for textures that are kept for the next. */
function discard(object) {
  object.traverse((part) => {
    part.geometry?.dispose();
    part.material?.dispose();
  });
}

const textures = new Map();
function textureOf(key, size, paint) {
  if (!textures.has(key)) {
    const canvas = document.createElement("canvas");
    canvas.width = canvas.height = size;
    paint(canvas.getContext("2d"));
    textures.set(key, new THREE.CanvasTexture(canvas));
  }
  return textures.get(key);
}

export class SpaceView {
  constructor(scene) {
    this.scene = scene;
    this.hidden = new Set();
    this.onpick = null;
    this.world = new THREE.Scene();
    this.grab = null;
    this.onhover = null;
    // Holds pointer and keys; the picture lies below it.
    this.canvas = make("div", { class: "view", tabindex: 0, role: "img", "aria-label":
      "The level in space. Drag turns it, with the right button or shift it pans, the wheel zooms. " +
      "Arrow keys turn, with shift they pan, plus and minus zoom, 0 shows all, page up and down move the cut." });
    // Words and handles, drawn flat over it.
    this.over = make("canvas", { class: "space-canvas", "aria-hidden": "true" });
    this.element = make("div", { class: "stage" }, this.over, this.canvas);
    this.moved = new Map();
    /** Drawn over everything else, each with (context, view). */
    this.overlays = [];
    this.camera = new THREE.PerspectiveCamera(40, 1, 0.01, 1000);
    this.camera.up.copy(vector(scene.up));
    this.redraw = onceAFrame(() => this.draw());
    this.controls = new THREE.OrbitControls(this.camera, this.canvas);
    this.controls.enableKeys = false;
    this.controls.screenSpacePanning = true;
    this.controls.addEventListener("change", this.redraw);
    const up = vector(scene.up);
    this.box = new THREE.Box3(vector(scene.low), vector(scene.high));
    this.cutPlane = new THREE.Plane(up.clone().negate(), Infinity);
    this.reach = this.spanAlong(up);
    this.lay();
    this.listen();
    new ResizeObserver(() => this.resize()).observe(this.element);
  }

  spanAlong(up) {
    let low = Infinity;
    let high = -Infinity;
    for (let corner = 0; corner < 8; ++corner) {
      const s = up.x * (corner & 1 ? this.box.max : this.box.min).x + up.y * (corner & 2 ? this.box.max : this.box.min).y +
                up.z * (corner & 4 ? this.box.max : this.box.min).z;
      [low, high] = [Math.min(low, s), Math.max(high, s)];
    }
    return { low, high };
  }

  /** Solids that stand still are one mesh a layer; each that moves is its own. */
  lay() {
    this.groups = [];
    const still = new Map();
    this.scene.solids.forEach((solid, number) => {
      const parts = { number, triangles: floats(solid.triangles), edges: floats(solid.edges) };
      if (solid.moves) this.addGroup(solid.layer, [parts], number);
      else if (still.has(solid.layer)) still.get(solid.layer).push(parts);
      else still.set(solid.layer, [parts]);
    });
    for (const [layer, parts] of still) this.addGroup(layer, parts, null);
    this.light = new THREE.DirectionalLight(0xffffff, 0.55);
    this.world.add(new THREE.AmbientLight(0xffffff, 0.42), this.light);
    this.paint();
  }

  addGroup(layer, parts, moving) {
    const joined = (key) => {
      const all = new Float32Array(parts.reduce((sum, part) => sum + part[key].length, 0));
      let at = 0;
      for (const part of parts) {
        all.set(part[key], at);
        at += part[key].length;
      }
      return all;
    };
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.BufferAttribute(joined("triangles"), 3));
    geometry.computeVertexNormals();
    const material = new THREE.MeshLambertMaterial({ side: THREE.DoubleSide, clippingPlanes: [this.cutPlane],
      polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 });
    const mesh = new THREE.Mesh(geometry, material);
    // Which solid a triangle is of: each ends before so many.
    let triangles = 0;
    mesh.userData.ends = parts.map((part) => [triangles += part.triangles.length / 9, part.number]);
    const edges = new THREE.BufferGeometry();
    edges.setAttribute("position", new THREE.BufferAttribute(joined("edges"), 3));
    const group = new THREE.Group();
    group.add(mesh, new THREE.LineSegments(edges, new THREE.LineBasicMaterial({ clippingPlanes: [this.cutPlane], transparent: true, opacity: 0.55 })));
    group.userData = { layer, moving };
    this.world.add(group);
    this.groups.push(group);
  }

  /** Colours of the present theme. */
  paint() {
    for (const group of this.groups) {
      group.children[0].material.color.set(layerFill(group.userData.layer));
      group.children[1].material.color.set(colors().edge);
    }
    if (this.marks) this.setMarks(this.marks);
    if (this.pose) this.setPose(this.pose);
    this.redraw();
  }

  /** Gives back what the browser holds for this view. */
  dispose() {
    discard(this.world);
    this.controls.dispose();
  }

  listen() {
    const canvas = this.canvas;
    let travelled = 0;
    let held = false;
    let grabbed = null;
    canvas.addEventListener("pointerdown", (event) => {
      held = true;
      travelled = 0;
      const place = [event.offsetX, event.offsetY];
      grabbed = event.button === 0 && !event.shiftKey ? this.grab?.(this.surfaceAt(...place)?.point ?? null, place) ?? null : null;
      this.controls.enabled = !grabbed;
    }, { capture: true });
    canvas.addEventListener("pointermove", (event) => {
      if (held) travelled += Math.abs(event.movementX) + Math.abs(event.movementY);
      if (grabbed) grabbed.move(this.surfaceAt(event.offsetX, event.offsetY)?.point ?? null, event);
      else if (!held && this.onhover) this.onhover([event.offsetX, event.offsetY]);
    });
    const lift = () => {
      held = false;
      grabbed?.end();
      grabbed = null;
      this.controls.enabled = true;
    };
    canvas.addEventListener("pointerup", (event) => {
      const picks = travelled < 4;
      lift();
      if (picks) this.pick(event.offsetX, event.offsetY);
    });
    canvas.addEventListener("pointercancel", lift);
    canvas.addEventListener("dblclick", () => this.fit());
    canvas.addEventListener("keydown", (event) => {
      if (this.leavesKeys?.()) return;
      const turn = 0.12;
      const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
      if (arrow) {
        if (event.shiftKey) this.pan(40 * arrow[0], 40 * arrow[1]);
        else this.turn(turn * arrow[0], turn * arrow[1]);
      } else if (event.key === "+" || event.key === "=") this.zoom(1.25);
      else if (event.key === "-") this.zoom(0.8);
      else if (event.key === "0") this.fit();
      else if (event.key === "n" || event.key === "N") this.pickNext(event.key === "n" ? 1 : -1);
      else if (event.key === "PageUp") this.oncut?.(0.04);
      else if (event.key === "PageDown") this.oncut?.(-0.04);
      else return;
      event.preventDefault();
    });
  }

  /** The surface under a place of the picture: { point, solid }; null where there is none, or it is cut away. */
  surfaceAt(x, y) {
    const { origin, direction } = this.rayAt(x, y);
    const caster = new THREE.Raycaster(origin, direction);
    const meshes = this.groups.filter((group) => group.visible).map((group) => group.children[0]);
    const hit = caster.intersectObjects(meshes).find((one) => this.cutPlane.distanceToPoint(one.point) >= 0);
    if (!hit) return null;
    const [, solid] = hit.object.userData.ends.find(([end]) => hit.faceIndex < end);
    return { point: [hit.point.x, hit.point.y, hit.point.z], solid };
  }

  /** Whether a place of the picture is on the body. */
  touchesBody([x, y]) {
    const { anchor, size } = this.pose;
    const feet = this.screenOf(anchor);
    const head = this.screenOf(anchor.map((a, i) => a + size * this.scene.up[i]));
    if (!feet || !head) return false;
    const way = [head[0] - feet[0], head[1] - feet[1]];
    const squared = Math.max(way[0] ** 2 + way[1] ** 2, 1);
    const part = Math.min(Math.max(((x - feet[0]) * way[0] + (y - feet[1]) * way[1]) / squared, 0), 1);
    return Math.hypot(x - feet[0] - part * way[0], y - feet[1] - part * way[1]) < Math.max(0.25 * Math.sqrt(squared), 8);
  }

  /** The drive that a player asks for, to the right on the screen and away from the eye. */
  driveOf(across, away) {
    const up = this.camera.up;
    const ahead = this.controls.target.clone().sub(this.camera.position);
    ahead.addScaledVector(up, -ahead.dot(up)).normalize();
    const drive = ahead.clone().cross(up).multiplyScalar(across).addScaledVector(ahead, away);
    if (drive.length() > 1) drive.normalize();
    // Few digits, so that a held key is one cue.
    return [drive.x, drive.y, drive.z].map((v) => Number(v.toFixed(3)) + 0);
  }

  /** Where the eye is and what it looks at, in an address, and back. */
  whereabouts() {
    return [...this.camera.position.toArray(), ...this.controls.target.toArray()].map((x) => Number(x.toPrecision(5))).join(",");
  }

  standAt(words) {
    const numbers = words.split(",").map(Number);
    if (numbers.length !== 6 || !numbers.every(Number.isFinite)) return false;
    this.wanted = null;
    if (!this.placed) this.fit();
    this.wanted = null;
    this.camera.position.fromArray(numbers);
    this.controls.target.fromArray(numbers, 3);
    const size = this.box.getSize(new THREE.Vector3()).length();
    [this.camera.near, this.camera.far, this.placed, this.shown] = [1e-3 * size, 20 * size, true, true];
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.redraw();
    return true;
  }

  /** Turns the camera about what it looks at: sideways, and up as far as straight above or below. */
  turn(sideways, upwards) {
    const up = this.camera.up;
    const away = this.camera.position.clone().sub(this.controls.target);
    away.applyAxisAngle(up, sideways);
    const side = up.clone().cross(away).normalize();
    const angle = away.angleTo(up);
    const next = Math.min(Math.max(angle - upwards, 0.02), Math.PI - 0.02);
    away.applyAxisAngle(side, next - angle);
    this.camera.position.copy(this.controls.target).add(away);
    this.controls.update();
    this.redraw();
  }

  pan(x, y) {
    const distance = this.camera.position.distanceTo(this.controls.target);
    const unit = (2 * distance * Math.tan((this.camera.fov * Math.PI) / 360)) / this.height;
    const by = new THREE.Vector3(x * unit, y * unit, 0).applyQuaternion(this.camera.quaternion);
    this.camera.position.add(by);
    this.controls.target.add(by);
    this.controls.update();
    this.redraw();
  }

  zoom(factor) {
    const away = this.camera.position.clone().sub(this.controls.target).divideScalar(factor);
    this.camera.position.copy(this.controls.target).add(away);
    this.controls.update();
    this.redraw();
  }

  fit() {
    this.look(this.box.getCenter(new THREE.Vector3()), 0.46 * this.box.getSize(new THREE.Vector3()).length());
  }

  flyTo(low, high, part = 0.4) {
    const box = new THREE.Box3().expandByPoint(vector(low)).expandByPoint(vector(high));
    this.look(box.getCenter(new THREE.Vector3()), Math.max(box.getSize(new THREE.Vector3()).length() / 2, 0.5) / Math.min(1, 1.8 * part));
  }

  /** From where it stands now, or from a corner at first, at a distance that shows a ball. */
  look(center, radius) {
    if (!this.width) {
      this.wanted = [center, radius];
      return;
    }
    const up = this.camera.up;
    let away = this.camera.position.clone().sub(this.controls.target);
    if (!this.placed) {
      const some = Math.abs(up.x) < 0.9 ? new THREE.Vector3(1, 0, 0) : new THREE.Vector3(0, 1, 0);
      const side = some.sub(up.clone().multiplyScalar(some.dot(up))).normalize();
      away = up.clone().cross(side).multiplyScalar(-0.9).addScaledVector(side, 0.55).addScaledVector(up, 0.85);
      if (away.dot(new THREE.Vector3(0, 0, 1)) < 0) away.addScaledVector(up.clone().cross(side), 1.8);
      this.placed = true;
    }
    const half = ((this.camera.fov * Math.PI) / 360) * Math.min(1, this.camera.aspect);
    this.controls.target.copy(center);
    this.camera.position.copy(center).addScaledVector(away.normalize(), radius / Math.sin(half));
    const size = this.box.getSize(new THREE.Vector3()).length();
    this.camera.near = 1e-3 * size;
    this.camera.far = 20 * size;
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.shown = true;
    this.redraw();
  }

  /** Shows what another view of the same level shows. */
  standAs(other) {
    this.wanted = null;
    this.controls.target.copy(other.controls.target);
    this.camera.position.copy(other.camera.position);
    this.camera.near = other.camera.near;
    this.camera.far = other.camera.far;
    this.camera.updateProjectionMatrix();
    this.placed = this.shown = true;
    this.cutPlane.constant = other.cutPlane.constant;
    this.controls.update();
    this.redraw();
  }

  resize() {
    if (!this.element.clientWidth) return;
    this.width = Math.max(this.element.clientWidth, 10);
    this.height = Math.max(this.element.clientHeight, 10);
    this.camera.aspect = this.width / this.height;
    this.camera.updateProjectionMatrix();
    if (this.wanted) this.look(...this.wanted);
    else if (!this.shown) this.fit();
    this.wanted = null;
    this.redraw();
  }

  screenOf(p) {
    const v = vector(p).project(this.camera);
    return Math.abs(v.z) <= 1 ? [((v.x + 1) / 2) * this.width, ((1 - v.y) / 2) * this.height] : null;
  }

  // What signs are drawn by (signs.js).

  isShown(number) {
    return !this.hidden.has(this.scene.solids[number].layer);
  }

  /** A solid's box where it is now: { low, high } in the level. */
  spanOf(number) {
    this.spans ??= new Map();
    if (!this.spans.has(number)) {
      const points = floats(this.scene.solids[number].triangles);
      const span = { low: [Infinity, Infinity, Infinity], high: [-Infinity, -Infinity, -Infinity] };
      points.forEach((x, i) => {
        span.low[i % 3] = Math.min(span.low[i % 3], x);
        span.high[i % 3] = Math.max(span.high[i % 3], x);
      });
      this.spans.set(number, points.length > 0 ? span : null);
    }
    const span = this.spans.get(number);
    const by = this.moved.get(number) ?? [0, 0, 0];
    return span && { low: span.low.map((x, i) => x + by[i]), high: span.high.map((x, i) => x + by[i]) };
  }

  cornersOf({ low, high }) {
    return Array.from({ length: 8 }, (_, k) => this.screenOf([0, 1, 2].map((i) => ((k >> i) & 1 ? high[i] : low[i]))));
  }

  /** The box on the screen that holds a solid; null where it is not wholly before the eye, or cut away. */
  boxOf(number) {
    const span = this.spanOf(number);
    if (!span || this.cutPlane.distanceToPoint(vector(span.low.map((x, i) => (x + span.high[i]) / 2))) < 0) return null;
    const points = this.cornersOf(span);
    return points.includes(null) ? null : { low: [0, 1].map((i) => Math.min(...points.map((p) => p[i]))), high: [0, 1].map((i) => Math.max(...points.map((p) => p[i]))) };
  }

  rimsOf(number) {
    const edges = floats(this.scene.solids[number].edges);
    const by = this.moved.get(number) ?? [0, 0, 0];
    const rims = [];
    for (let i = 0; i + 6 <= edges.length; i += 6) {
      const ends = [i, i + 3].map((k) => this.screenOf(by.map((x, axis) => x + edges[k + axis])));
      if (!ends.includes(null)) rims.push(ends);
    }
    return rims;
  }

  /** One arrow in the middle of a solid, the way that is free. */
  arrowsOf(number) {
    const span = this.spanOf(number);
    if (!span) return [];
    const middle = span.low.map((x, i) => (x + span.high[i]) / 2);
    const way = this.scene.solids[number].one_way;
    const size = 0.02 * this.box.getSize(new THREE.Vector3()).length();
    const [at, tip] = [this.screenOf(middle), this.screenOf(middle.map((x, i) => x + size * way[i]))];
    if (!at || !tip) return [];
    const length = Math.hypot(tip[0] - at[0], tip[1] - at[1]);
    return length > 1 ? [{ at, way: [(tip[0] - at[0]) / length, (tip[1] - at[1]) / length] }] : [];
  }

  edgesOf(low, high) {
    const corners = this.cornersOf({ low, high });
    const edges = [];
    for (let k = 0; k < 8; ++k) {
      for (const bit of [1, 2, 4]) if (!(k & bit) && corners[k] && corners[k | bit]) edges.push([corners[k], corners[k | bit]]);
    }
    return edges;
  }

  /** Whether solids and starts have their names beside them. */
  setNames(shown) {
    this.names = shown;
    this.redraw();
  }

  // What a hand takes hold of (live_hand.js).

  rayAt(x, y) {
    const caster = new THREE.Raycaster();
    caster.setFromCamera(new THREE.Vector2((2 * x) / this.width - 1, 1 - (2 * y) / this.height), this.camera);
    return caster.ray;
  }

  /** The point under a place of the picture, in the plane through another that faces the eye. */
  pointAt(x, y, through) {
    const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(this.camera.getWorldDirection(new THREE.Vector3()), vector(through));
    return this.rayAt(x, y).intersectPlane(plane, new THREE.Vector3())?.toArray() ?? through;
  }

  /** How far along a line, from a point of it, it passes nearest below a place of the picture; `way` of length 1. */
  alongAt(x, y, from, way) {
    const ray = this.rayAt(x, y);
    const between = vector(from).sub(ray.origin);
    const cosine = ray.direction.dot(vector(way));
    const sine = 1 - cosine * cosine;
    // A line straight away from the eye has no such place.
    return sine < 1e-6 ? 0 : (cosine * ray.direction.dot(between) - vector(way).dot(between)) / sine;
  }

  setHidden(layers) {
    this.hidden = layers;
    for (const group of this.groups) group.visible = !layers.has(group.userData.layer);
    this.redraw();
  }

  /** How many things the browser holds for all views. */
  static held() {
    return shared ? { ...shared.info.memory } : { geometries: 0, textures: 0 };
  }

  /** Cuts away what lies above a part, 0 to 1, of the level's height; 1 cuts nothing. */
  setCut(part) {
    const { low, high } = this.reach;
    this.cutPlane.constant = part >= 1 ? 1e30 : low + part * (high - low) + 1e-6 * (high - low);
    this.redraw();
  }

  setMoved(moved) {
    this.moved = moved;
    for (const group of this.groups) {
      if (group.userData.moving !== null) group.position.set(...(moved.get(group.userData.moving) ?? [0, 0, 0]));
    }
    this.redraw();
  }

  setMarks(marks) {
    this.marks = marks;
    if (this.points) {
      this.world.remove(this.points);
      discard(this.points);
    }
    this.points = new THREE.Group();
    for (const verdict of paintOrder) {
      const chosen = marks.shown.filter((i) => marks.verdicts[i] === verdict);
      if (chosen.length === 0) continue;
      const positions = new Float32Array(3 * chosen.length);
      chosen.forEach((i, k) => positions.set(marks.positions.subarray(3 * i, 3 * i + 3), 3 * k));
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
      const texture = textureOf(`mark ${verdict} ${theme()}`, 32, (context) => context.drawImage(markSprite(verdict, 14, 1), 0, 0));
      const material = new THREE.PointsMaterial({ map: texture, size: 10, sizeAttenuation: false, alphaTest: 0.4,
        transparent: true, clippingPlanes: [this.cutPlane] });
      // A little nearer to the eye, straight towards it, or the ground they stand on would hide their lower halves.
      material.onBeforeCompile = (shader) => {
        shader.vertexShader = shader.vertexShader.replace("#include <project_vertex>",
          "#include <project_vertex>\n gl_Position = projectionMatrix * vec4(0.985 * mvPosition.xyz, 1.0);");
      };
      const points = new THREE.Points(geometry, material);
      points.renderOrder = 1 + paintOrder.indexOf(verdict);
      points.userData.share = [0.75, 1, 1, 0.8, 0.95, 0.75][verdict];
      this.points.add(points);
    }
    this.world.add(this.points);
    this.paintPatches();
    this.redraw();
  }

  /** From afar thousands of marks would hide the level: there each patch of ground, a sixtieth of the level, is painted with the
      gravest verdict on it, the stronger the more of it has that verdict. */
  paintPatches() {
    if (this.patches) {
      this.world.remove(this.patches);
      discard(this.patches);
      this.patches = null;
    }
    const { positions, verdicts, shown } = this.marks;
    const most = 3000;
    if (shown.length <= most) return;
    const up = this.scene.up;
    const size = this.box.getSize(new THREE.Vector3()).length();
    const side = size / 60;
    const cells = new Map();
    for (const i of shown) {
      const at = [positions[3 * i], positions[3 * i + 1], positions[3 * i + 2]];
      const key = at.map((x) => Math.floor(x / side)).join();
      let cell = cells.get(key);
      if (!cell) cells.set(key, cell = { sum: [0, 0, 0], count: 0, by: [0, 0, 0, 0, 0, 0] });
      at.forEach((x, axis) => { cell.sum[axis] += x; });
      ++cell.count;
      ++cell.by[verdicts[i]];
    }
    const byVerdict = new Map();
    for (const cell of cells.values()) {
      const verdict = [1, 2, 4, 5, 0, 3].find((v) => cell.by[v] > 0);
      if (!byVerdict.has(verdict)) byVerdict.set(verdict, []);
      byVerdict.get(verdict).push({ at: cell.sum.map((x) => x / cell.count), share: cell.by[verdict] / cell.count });
    }
    this.patches = new THREE.Group();
    const turn = new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 0, 1), vector(up));
    const matrix = new THREE.Matrix4();
    for (const [verdict, list] of byVerdict) {
      const material = new THREE.MeshBasicMaterial({ color: verdictColor(verdict), transparent: true, opacity: verdict === 1 || verdict === 2 ? 0.85 : 0.4, depthWrite: false,
        side: THREE.DoubleSide, clippingPlanes: [this.cutPlane], polygonOffset: true, polygonOffsetFactor: -2, polygonOffsetUnits: -2 });
      // Told apart by form, too: what is missed is a ring, what is false a diamond.
      const half = 0.46 * side;
      const geometry = verdict === 1 ? new THREE.RingGeometry(0.5 * half, half, 20) : verdict === 2 ? new THREE.CircleGeometry(half, 4) : new THREE.PlaneGeometry(1.9 * half, 1.9 * half);
      const mesh = new THREE.InstancedMesh(geometry, material, list.length);
      list.forEach(({ at, share }, k) => {
        const scale = 0.45 + 0.55 * share;
        matrix.compose(vector(at).addScaledVector(vector(up), 0.02 * side), turn, new THREE.Vector3(scale, scale, scale));
        mesh.setMatrixAt(k, matrix);
      });
      mesh.renderOrder = verdict === 1 || verdict === 2 ? 3 : 2;
      this.patches.add(mesh);
    }
    this.patches.userData.side = side;
    this.world.add(this.patches);
  }

  /** A line, as thick as it is drawn from near; `dashed` where it went unspent. */
  line(from, to, color, { dashed = false, radius = 0 } = {}) {
    const group = new THREE.Group();
    const [a, b] = [vector(from), vector(to)];
    const length = a.distanceTo(b);
    if (length < 1e-9) return group;
    const geometry = new THREE.BufferGeometry().setFromPoints([a, b]);
    const material = dashed ? new THREE.LineDashedMaterial({ color, dashSize: 0.035 * this.pose.size, gapSize: 0.025 * this.pose.size, depthTest: false })
      : new THREE.LineBasicMaterial({ color, depthTest: false });
    const line = new THREE.Line(geometry, material);
    if (dashed) line.computeLineDistances();
    line.renderOrder = 20;
    group.add(line);
    if (radius > 0 && !dashed) {
      const rod = new THREE.Mesh(new THREE.CylinderGeometry(radius, radius, length, 8), new THREE.MeshBasicMaterial({ color, depthTest: false }));
      rod.position.copy(a).add(b).multiplyScalar(0.5);
      rod.quaternion.setFromUnitVectors(new THREE.Vector3(0, 1, 0), b.clone().sub(a).normalize());
      rod.renderOrder = 20;
      group.add(rod);
    }
    return group;
  }

  wires(packed, at, color, opacity) {
    const edges = new THREE.BufferGeometry();
    edges.setAttribute("position", new THREE.BufferAttribute(floats(packed.edges), 3));
    const lines = new THREE.LineSegments(edges, new THREE.LineBasicMaterial({ color, transparent: true, opacity, depthTest: false }));
    lines.position.set(...at);
    lines.renderOrder = 12;
    return lines;
  }

  shape(packed, at, color, opacity) {
    const group = new THREE.Group();
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.BufferAttribute(floats(packed.triangles), 3));
    geometry.computeVertexNormals();
    const mesh = new THREE.Mesh(geometry, new THREE.MeshLambertMaterial({ color, transparent: true, opacity, depthWrite: false }));
    mesh.renderOrder = 10;
    const edges = new THREE.BufferGeometry();
    edges.setAttribute("position", new THREE.BufferAttribute(floats(packed.edges), 3));
    const lines = new THREE.LineSegments(edges, new THREE.LineBasicMaterial({ color, transparent: true, opacity: Math.min(1, 2.2 * opacity) }));
    lines.renderOrder = 11;
    group.add(mesh, lines);
    group.position.set(...at);
    return group;
  }

  /** A disc, hollow for what is refused. */
  dot(at, color, size, hollow = false) {
    const geometry = new THREE.BufferGeometry().setFromPoints([vector(at)]);
    const map = textureOf(hollow ? "ring" : "disc", 32, (context) => {
      context.fillStyle = context.strokeStyle = "#fff";
      context.lineWidth = 7;
      context.beginPath();
      context.arc(16, 16, hollow ? 11 : 15, 0, 2 * Math.PI);
      if (hollow) context.stroke();
      else context.fill();
    });
    const points = new THREE.Points(geometry, new THREE.PointsMaterial({ color, size, sizeAttenuation: false, map, alphaTest: 0.5, depthTest: false, transparent: true }));
    points.renderOrder = 21;
    return points;
  }

  number(at, number, place) {
    const geometry = new THREE.BufferGeometry().setFromPoints([vector(at)]);
    const map = textureOf(`number ${number} ${place} ${theme()}`, 64, (context) => {
      context.font = "bold 22px system-ui, sans-serif";
      context.textAlign = "left";
      context.lineWidth = 6;
      context.strokeStyle = colors().ground;
      context.fillStyle = colors().probe;
      context.strokeText(String(number), 40, 22 + 20 * Math.min(place, 2));
      context.fillText(String(number), 40, 22 + 20 * Math.min(place, 2));
    });
    const label = new THREE.Points(geometry, new THREE.PointsMaterial({ size: 52, sizeAttenuation: false, map, depthTest: false, transparent: true }));
    label.renderOrder = 23;
    return label;
  }

  probe(probe, index) {
    const group = new THREE.Group();
    const look = colors();
    const { size } = this.pose;
    const color = probe.dim ? look.faint : look.probe;
    for (const line of probe.lines) {
      group.add(this.line(line.from, line.to, color, { radius: probe.dim ? 0 : 0.006 * size }), this.line(line.to, line.limit, color, { dashed: true }),
        this.dot(line.from, color, 7));
      if (probe.shape) group.add(this.wires(probe.shape, line.from, color, 0.35), this.shape(probe.shape, line.to, color, 0.3));
      if (!line.hit) continue;
      group.add(this.dot(line.hit.point, color, 10, !line.hit.on),
        this.line(line.hit.point, line.hit.point.map((x, i) => x + 0.2 * size * line.hit.normal[i]), color, { radius: 0.006 * size }));
    }
    if (probe.lines.length > 0 && probe.numbered) group.add(this.number(probe.lines[0].from, index + 1, probe.place));
    return group;
  }

  setPose(pose) {
    this.pose = pose;
    if (this.posed) {
      this.world.remove(this.posed);
      discard(this.posed);
    }
    this.posed = new THREE.Group();
    if (pose) {
      const look = colors();
      const size = pose.size;
      this.posed.add(this.shape(pose.body, pose.anchor, look.body, 0.4));
      const chest = pose.anchor.map((x, i) => x + 0.8 * size * this.scene.up[i]);
      this.posed.add(this.line(chest, chest.map((x, i) => x + 0.5 * size * pose.heading[i]), look.body, { radius: 0.005 * size }));
      this.posed.add(this.dot(pose.anchor, look.body, 7));
      pose.probes.forEach((probe, index) => this.posed.add(this.probe(probe, index)));
      if (pose.truth) {
        const { verdict } = pose.truth;
        const mark = new THREE.Points(new THREE.BufferGeometry().setFromPoints([vector(pose.truth.at)]),
          new THREE.PointsMaterial({ size: 22, sizeAttenuation: false, depthTest: false, transparent: true,
            map: textureOf(`mark ${verdict} ${theme()}`, 32, (context) => context.drawImage(markSprite(verdict, 14, 1), 0, 0)) }));
        mark.renderOrder = 22;
        this.posed.add(mark);
      }
    }
    this.world.add(this.posed);
    this.redraw();
  }

  /** Another rig's probes at the same pose, in grey; null for none. */
  setBeside(pose) {
    if (this.besides) {
      this.world.remove(this.besides);
      discard(this.besides);
      this.besides = null;
    }
    if (pose) {
      this.besides = new THREE.Group();
      pose.probes.forEach((probe, index) => this.besides.add(this.probe({ ...probe, dim: true, numbered: false }, index)));
      this.world.add(this.besides);
    }
    this.redraw();
  }

  /** The gravest mark near a place, of equals the nearest to it; none that are cut away, hidden behind the eye or not shown. */
  pick(x, y) {
    if (!this.onpick || !this.marks) return;
    const { positions, verdicts, shown } = this.marks;
    let best = null;
    for (const i of shown) {
      const at = vector(positions.subarray(3 * i, 3 * i + 3));
      if (this.cutPlane.distanceToPoint(at) < 0) continue;
      const p = at.project(this.camera);
      if (p.z > 1 || p.z < -1) continue;
      const squared = (((p.x + 1) / 2) * this.width - x) ** 2 + (((1 - p.y) / 2) * this.height - y) ** 2;
      if (squared > 64) continue;
      const grave = gravity[verdicts[i]];
      const better = !best || grave > best.grave || (grave === best.grave && (squared < best.squared - 4 || (Math.abs(squared - best.squared) <= 4 && p.z < best.depth)));
      if (better) best = { i, grave, squared, depth: p.z };
    }
    if (best) this.onpick(best.i);
  }

  /** The marks by keys, gravest first. */
  pickNext(by) {
    const next = nextMark(this, by);
    if (next !== null) this.onpick?.(next);
  }

  draw() {
    if (!this.width || !this.element.isConnected) return;
    const renderer = sharedRenderer();
    if (renderer.domElement.parentElement !== this.element) this.element.prepend(renderer.domElement);
    const ratio = window.devicePixelRatio || 1;
    if (renderer.getPixelRatio() !== ratio) renderer.setPixelRatio(ratio);
    const size = renderer.getSize(new THREE.Vector2());
    if (size.x !== this.width || size.y !== this.height) renderer.setSize(this.width, this.height);
    renderer.setClearColor(colors().ground);
    this.light.position.copy(this.camera.position).addScaledVector(this.camera.up, 0.8 * this.camera.position.distanceTo(this.controls.target));
    this.light.target.position.copy(this.controls.target);
    this.light.target.updateMatrixWorld();
    // Small enough from afar that neighbours on the grid stay apart.
    const distance = this.camera.position.distanceTo(this.controls.target);
    const unit = this.height / (2 * distance * Math.tan((this.camera.fov * Math.PI) / 360));
    const stamp = Math.min(Math.max(0.9 * (this.marks?.spacing ?? 1) * unit, 5), 14);
    if (this.patches) {
      const far = this.patches.userData.side * unit < 14;
      this.patches.visible = far;
      this.points.visible = !far;
    }
    for (const points of this.points?.children ?? []) points.material.size = stamp * points.userData.share;
    renderer.render(this.world, this.camera);
    this.drawOver(ratio);
  }

  drawOver(ratio) {
    const [wide, high] = [Math.round(this.width * ratio), Math.round(this.height * ratio)];
    if (this.over.width !== wide || this.over.height !== high) {
      [this.over.width, this.over.height] = [wide, high];
      Object.assign(this.over.style, { width: `${this.width}px`, height: `${this.height}px` });
    }
    const context = this.over.getContext("2d");
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, this.width, this.height);
    drawSigns(context, this);
    for (const overlay of this.overlays) overlay(context, this);
  }
}
