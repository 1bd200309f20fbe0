// The level in three dimensions: orbit, pan, zoom, layers, a cutting plane, verdict marks, a body with its
// probes.
import { floats, make, onceAFrame } from "./dom.js";
import { colors, layerFill, markSprite, paintOrder, verdictColor } from "./look.js";

/* global THREE */

const vector = (p) => new THREE.Vector3(p[0], p[1], p[2]);

export class SpaceView {
  constructor(scene) {
    this.scene = scene;
    this.hidden = new Set();
    this.onpick = null;
    this.world = new THREE.Scene();
    this.renderer = new THREE.WebGLRenderer({ antialias: true, preserveDrawingBuffer: true });
    this.renderer.localClippingEnabled = true;
    this.canvas = this.renderer.domElement;
    this.canvas.className = "view";
    this.canvas.tabIndex = 0;
    this.canvas.setAttribute("role", "img");
    this.canvas.setAttribute("aria-label",
      "The level in space. Drag turns it, with the right button or shift it pans, the wheel zooms. " +
      "Arrow keys turn, with shift they pan, plus and minus zoom, 0 shows all, page up and down move the cut.");
    this.element = make("div", { class: "stage" }, this.canvas);
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

  lay() {
    this.solids = this.scene.solids.map((solid) => {
      const group = new THREE.Group();
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute("position", new THREE.BufferAttribute(floats(solid.triangles), 3));
      geometry.computeVertexNormals();
      const material = new THREE.MeshLambertMaterial({ side: THREE.DoubleSide, clippingPlanes: [this.cutPlane],
        polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 });
      group.add(new THREE.Mesh(geometry, material));
      const edges = new THREE.BufferGeometry();
      edges.setAttribute("position", new THREE.BufferAttribute(floats(solid.edges), 3));
      group.add(new THREE.LineSegments(edges, new THREE.LineBasicMaterial({ clippingPlanes: [this.cutPlane], transparent: true, opacity: 0.55 })));
      group.userData.layer = solid.layer;
      this.world.add(group);
      return group;
    });
    this.light = new THREE.DirectionalLight(0xffffff, 0.55);
    this.world.add(new THREE.AmbientLight(0xffffff, 0.42), this.light);
    this.paint();
  }

  /** Colours of the present theme. */
  paint() {
    this.renderer.setClearColor(colors().ground);
    for (const group of this.solids) {
      group.children[0].material.color.set(layerFill(group.userData.layer));
      group.children[1].material.color.set(colors().edge);
    }
    if (this.marks) this.setMarks(this.marks);
    if (this.pose) this.setPose(this.pose);
    this.redraw();
  }

  listen() {
    const canvas = this.canvas;
    let travelled = 0;
    let held = false;
    canvas.addEventListener("pointerdown", () => { held = true; travelled = 0; });
    canvas.addEventListener("pointermove", (event) => { if (held) travelled += Math.abs(event.movementX) + Math.abs(event.movementY); });
    canvas.addEventListener("pointerup", (event) => {
      held = false;
      if (travelled < 4) this.pick(event.offsetX, event.offsetY);
    });
    canvas.addEventListener("dblclick", () => this.fit());
    canvas.addEventListener("keydown", (event) => {
      const turn = 0.12;
      const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
      if (arrow) {
        if (event.shiftKey) this.pan(40 * arrow[0], 40 * arrow[1]);
        else this.turn(turn * arrow[0], turn * arrow[1]);
      } else if (event.key === "+" || event.key === "=") this.zoom(1.25);
      else if (event.key === "-") this.zoom(0.8);
      else if (event.key === "0") this.fit();
      else if (event.key === "PageUp") this.oncut?.(0.04);
      else if (event.key === "PageDown") this.oncut?.(-0.04);
      else return;
      event.preventDefault();
    });
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
    this.placed = this.shown = true;
    this.controls.update();
    this.redraw();
  }

  resize() {
    if (!this.element.clientWidth) return;
    this.width = Math.max(this.element.clientWidth, 10);
    this.height = Math.max(this.element.clientHeight, 10);
    this.renderer.setPixelRatio(window.devicePixelRatio || 1);
    this.renderer.setSize(this.width, this.height);
    this.camera.aspect = this.width / this.height;
    this.camera.updateProjectionMatrix();
    if (this.wanted) this.look(...this.wanted);
    else if (!this.shown) this.fit();
    this.wanted = null;
    this.redraw();
  }

  screenOf(p) {
    const v = vector(p).project(this.camera);
    return [((v.x + 1) / 2) * this.width, ((1 - v.y) / 2) * this.height];
  }

  setHidden(layers) {
    this.hidden = layers;
    for (const group of this.solids) group.visible = !layers.has(group.userData.layer);
    this.redraw();
  }

  /** Cuts away what lies above a part, 0 to 1, of the level's height; 1 cuts nothing. */
  setCut(part) {
    const { low, high } = this.reach;
    this.cutPlane.constant = part >= 1 ? 1e30 : low + part * (high - low) + 1e-6 * (high - low);
    this.redraw();
  }

  setMoved(moved) {
    this.solids.forEach((group, number) => {
      const offset = moved.get(number);
      group.position.set(...(offset ?? [0, 0, 0]));
    });
    this.redraw();
  }

  setMarks(marks) {
    this.marks = marks;
    if (this.points) this.world.remove(this.points);
    this.points = new THREE.Group();
    for (const verdict of paintOrder) {
      const chosen = marks.shown.filter((i) => marks.verdicts[i] === verdict);
      if (chosen.length === 0) continue;
      const positions = new Float32Array(3 * chosen.length);
      chosen.forEach((i, k) => positions.set(marks.positions.subarray(3 * i, 3 * i + 3), 3 * k));
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
      const texture = new THREE.CanvasTexture(markSprite(verdict, 14, 1));
      const material = new THREE.PointsMaterial({ map: texture, size: 10, sizeAttenuation: false, alphaTest: 0.4,
        transparent: true, clippingPlanes: [this.cutPlane] });
      // A little nearer to the eye, straight towards it, or the ground they stand on would hide their lower halves.
      material.onBeforeCompile = (shader) => {
        shader.vertexShader = shader.vertexShader.replace("#include <project_vertex>",
          "#include <project_vertex>\n gl_Position = projectionMatrix * vec4(0.985 * mvPosition.xyz, 1.0);");
      };
      const points = new THREE.Points(geometry, material);
      points.renderOrder = 1 + paintOrder.indexOf(verdict);
      points.userData.share = [0.75, 1, 1, 0.8, 0.95][verdict];
      this.points.add(points);
    }
    this.world.add(this.points);
    this.redraw();
  }

  line(points, color, loop = false) {
    const geometry = new THREE.BufferGeometry().setFromPoints(points.map(vector));
    const material = new THREE.LineBasicMaterial({ color, depthTest: false });
    const line = loop ? new THREE.LineSegments(geometry, material) : new THREE.Line(geometry, material);
    line.renderOrder = 20;
    return line;
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

  dot(at, color, size) {
    const geometry = new THREE.BufferGeometry().setFromPoints([vector(at)]);
    const canvas = document.createElement("canvas");
    canvas.width = canvas.height = 32;
    const context = canvas.getContext("2d");
    context.fillStyle = "#fff";
    context.arc(16, 16, 15, 0, 2 * Math.PI);
    context.fill();
    const points = new THREE.Points(geometry, new THREE.PointsMaterial({ color, size, sizeAttenuation: false,
      map: new THREE.CanvasTexture(canvas), alphaTest: 0.5, depthTest: false, transparent: true }));
    points.renderOrder = 21;
    return points;
  }

  setPose(pose) {
    this.pose = pose;
    if (this.posed) this.world.remove(this.posed);
    this.posed = new THREE.Group();
    if (pose) {
      const look = colors();
      const size = pose.size;
      this.posed.add(this.shape(pose.body, pose.anchor, look.body, 0.4));
      const chest = pose.anchor.map((x, i) => x + 0.8 * size * this.scene.up[i]);
      this.posed.add(this.line([chest, chest.map((x, i) => x + 0.5 * size * pose.heading[i])], look.body));
      this.posed.add(this.dot(pose.anchor, look.body, 7));
      for (const probe of pose.probes) {
        for (const line of probe.lines) {
          this.posed.add(this.line([line.from, line.to], look.probe));
          this.posed.add(this.dot(line.from, look.probe, 6));
          if (probe.shape) this.posed.add(this.shape(probe.shape, line.to, look.probe, 0.3));
          if (!line.hit) continue;
          this.posed.add(this.dot(line.hit.point, look.probe, 8));
          this.posed.add(this.line([line.hit.point, line.hit.point.map((x, i) => x + 0.2 * size * line.hit.normal[i])], look.probe));
        }
      }
      if (pose.truth) this.posed.add(this.dot(pose.truth.at, verdictColor(pose.truth.verdict), 13));
    }
    this.world.add(this.posed);
    this.redraw();
  }

  pick(x, y) {
    if (!this.onpick || !this.marks) return;
    let best = null;
    let nearest = 144;
    for (const i of this.marks.shown) {
      const p = vector(this.marks.positions.subarray(3 * i, 3 * i + 3)).project(this.camera);
      if (p.z > 1) continue;
      const squared = (((p.x + 1) / 2) * this.width - x) ** 2 + (((1 - p.y) / 2) * this.height - y) ** 2;
      if (squared < nearest) [nearest, best] = [squared, i];
    }
    if (best !== null) this.onpick(best);
  }

  draw() {
    if (!this.width) return;
    this.light.position.copy(this.camera.position).addScaledVector(this.camera.up, 0.8 * this.camera.position.distanceTo(this.controls.target));
    this.light.target.position.copy(this.controls.target);
    this.light.target.updateMatrixWorld();
    // Small enough from afar that neighbours on the grid stay apart.
    const distance = this.camera.position.distanceTo(this.controls.target);
    const unit = this.height / (2 * distance * Math.tan((this.camera.fov * Math.PI) / 360));
    const size = Math.min(Math.max(0.9 * (this.marks?.spacing ?? 1) * unit, 5), 14);
    for (const points of this.points?.children ?? []) points.material.size = size * points.userData.share;
    this.renderer.render(this.world, this.camera);
  }
}
