/** The solids on the board, drawn on demand with three.js; what is under the pointer is found here too. */
import {
  BufferGeometry,
  DirectionalLight,
  DoubleSide,
  Group,
  HemisphereLight,
  LineBasicMaterial,
  LineSegments,
  MeshLambertMaterial,
  OrthographicCamera,
  Points,
  PointsMaterial,
  Scene,
  ShaderMaterial,
  Mesh as ThreeMesh,
  Vector3,
  type WebGLRenderer,
} from "three";
import type { Body, XY } from "../api/types";
import { axes, type ViewState } from "./camera";
import { type Drawn, edgeColour, edgeMaterial, faceMaterial, hiddenMaterial } from "./drawn";
import { edgeRange, type Mesh, realEdges } from "./mesh";
import { Outline } from "./outline";
import { type Paint, Painted } from "./painted";
import type { Pane } from "./panes";
import { firstHit, inside, type Pick, pickAll, type Seen } from "./pointed";
import { doneWith, keepCompiled, rendererOf } from "./renderer";
import { type Cut, Section } from "./section";
import { edgesGeometry, emptied, facesGeometry, fetchMesh, hatching, isSmooth, washing } from "./shapes";

interface Loaded {
  body: Body;
  mesh: Mesh;
  faces: BufferGeometry;
}

interface Shown extends Loaded {
  solid: ThreeMesh;
  outline: Outline;
}

/** How far from the origin bodies reach, mm; never less than 100. */
function farthest(bodies: Loaded[]): number {
  let most = 100;
  for (const { mesh } of bodies)
    for (let i = 0; i < mesh.positions.length; i += 3)
      most = Math.max(most, Math.hypot(mesh.positions[i], mesh.positions[i + 1], mesh.positions[i + 2]));
  return most;
}

export class BoardScene {
  private renderer: WebGLRenderer;
  private scene = new Scene();
  private camera = new OrthographicCamera();
  private sun = new DirectionalLight("#ffffff", 2.1);
  private solids = new Group();
  private edges = new Group();
  private marks = new Group();
  private lights = new Group();
  private ghosts = new Group();
  private painted = new Painted(); // by a check
  private shown: Shown[] = [];
  private wanted = "";
  private dimmed = false;
  private drawn: Drawn = "edges";
  private section = new Section();
  private frame = 0;
  private far = 100;
  private view: ViewState | null = null;
  private panes: Pane[] | null = null;

  constructor(
    private canvas: HTMLCanvasElement,
    private part: string,
    private changed: () => void,
    private replaced: (view: ViewState) => boolean, // whether the edges of a view are drawn elsewhere
  ) {
    this.renderer = rendererOf(canvas);
    canvas.dataset.bodies = "0";
    this.scene.add(new HemisphereLight("#ffffff", "#cfc8b8", 1.9), this.sun, this.sun.target);
    this.scene.add(this.solids, this.edges, this.section.group, this.lights, this.marks, this.ghosts);
    this.scene.add(this.painted.group);
  }

  dispose() {
    cancelAnimationFrame(this.frame);
    for (const group of [this.solids, this.edges, this.lights, this.marks, this.ghosts]) emptied(group);
    this.painted.set(null);
    this.section.set(null, [], 0);
    doneWith(this.canvas);
  }

  resize(width: number, height: number) {
    this.renderer.setSize(width, height, false);
    this.draw();
  }

  /**
   * Show these bodies; resolves when they are on screen. Bodies shown before stay until the new ones are there:
   * ``before`` is called at the moment they go. False if others were asked for meanwhile.
   */
  async show(bodies: Body[], dimmed: boolean, before?: () => void): Promise<boolean> {
    const wanted = bodies.map((b) => b.key + b.colour).join() + dimmed;
    this.wanted = wanted;
    const loaded = await Promise.all(bodies.map((b) => fetchMesh(this.part, b.key)));
    if (this.wanted !== wanted) return false;
    before?.();
    this.dimmed = dimmed;
    this.put(bodies.map((body, i) => ({ body, mesh: loaded[i], faces: facesGeometry(loaded[i]) })));
    this.changed();
    return true;
  }

  /** How solids are drawn from now on. */
  draws(how: Drawn) {
    this.drawn = how;
    this.put(this.shown);
  }

  /** Cut the part open, or close it again. */
  cutOpen(cut: Cut | null) {
    const clipped = this.section.cut !== null;
    this.section.cut = cut;
    if (clipped && cut) {
      this.cap(this.shown); // what is drawn is clipped by the same plane: while it is pulled only the caps are new
      this.draw();
    } else this.put(this.shown);
    this.changed();
  }

  private put(bodies: Loaded[]) {
    emptied(this.marks);
    emptied(this.lights);
    emptied(this.solids, new Set(bodies.map((b) => b.faces)));
    emptied(this.edges);
    this.far = farthest(bodies);
    this.cap(bodies);
    this.shown = bodies.map((b) => this.drawnBody(b));
    this.draw();
  }

  private cap(bodies: Loaded[]) {
    this.section.set(
      this.section.cut,
      bodies.map((b) => ({ mesh: b.mesh, faces: b.faces, colour: b.body.colour })),
      this.far,
    );
  }

  private drawnBody({ body, mesh, faces }: Loaded): Shown {
    const [how, planes, faint] = [this.drawn, this.section.planes(), this.dimmed ? 0.3 : 1];
    const solid = new ThreeMesh(faces, faceMaterial(body.colour, how, this.dimmed, planes));
    const colour = edgeColour(body.colour, how);
    const ink = edgeMaterial(colour, faint, how, planes);
    const [smooth, sharp] = [true, false].map((s) =>
      edgesGeometry(
        mesh,
        realEdges(body).filter((e) => isSmooth(body, e) === s),
      ),
    );
    const light = edgeMaterial(colour, this.dimmed ? 0.12 : 0.28, how, planes);
    const outline = new Outline(mesh, body, ink);
    this.solids.add(solid);
    this.edges.add(new LineSegments(smooth, light), new LineSegments(sharp, ink), outline.lines);
    const behind = hiddenMaterial(colour, how, 1 / (this.view?.scale ?? 1), planes);
    if (behind) {
      const dashes = new LineSegments(sharp, behind);
      dashes.computeLineDistances();
      dashes.renderOrder = 1;
      this.edges.add(dashes);
    }
    return { body, mesh, faces, solid, outline };
  }

  /** Added volume as a green wash, removed volume as red hatching. */
  async preview(added: string[], removed: string[]): Promise<void> {
    const load = (keys: string[]) => Promise.all(keys.map((k) => fetchMesh(this.part, k)));
    const [plus, minus] = await Promise.all([load(added), load(removed)]);
    emptied(this.ghosts);
    for (const [list, colour] of [
      [plus, "#0D7063"],
      [minus, "#B83720"],
    ] as const) {
      for (const mesh of list) {
        const wash = list === minus ? hatching(colour) : washing(colour, 0.45);
        this.ghosts.add(
          new ThreeMesh(facesGeometry(mesh), wash),
          new LineSegments(edgesGeometry(mesh), new LineBasicMaterial({ color: colour, depthTest: false })),
        );
      }
    }
    this.draw();
  }

  /** What is previewed is of other values than stand there now: it is shown as old until the next comes. */
  fade() {
    for (const ghost of this.ghosts.children) {
      const { material } = ghost as ThreeMesh;
      if (material instanceof ShaderMaterial) ghost.visible = false;
      else if (!Array.isArray(material)) {
        material.transparent = true;
        material.opacity = 0.15;
      }
    }
    this.draw();
  }

  /** Where the eye meets what is tried, added or taken away, at a place on the board. */
  triedAt(at: XY): Vector3 | null {
    if (!this.view) return null;
    this.aim(this.view);
    return firstHit(this.ghosts.children, this.camera, this.view, at);
  }

  /** Outline what is under the pointer and wash what is selected. */
  mark(hover: Pick | null, selected: Pick[]) {
    emptied(this.marks);
    for (const p of selected) this.paint(p, "#B83720", true);
    if (hover) this.paint(hover, "#1E2A44", false);
    this.draw();
  }

  /** What a check paints in place of the faces; null shows them again. */
  paintOver(paint: Paint | null) {
    this.painted.set(paint);
    this.solids.visible = paint === null;
    this.draw();
  }

  /** Which corner of what is painted is under a place of the canvas, and where that is on it. */
  paintedAt(at: XY) {
    if (!this.view) return null;
    this.aim(this.view);
    return this.painted.at(at, [this.view.width, this.view.height], this.camera);
  }

  /** Faces lit because something speaks of them: by the body's place and the face's number. */
  light(faces: [number, number][]) {
    emptied(this.lights);
    const nowhere = new Vector3();
    for (const [body, face] of faces)
      this.paint({ kind: "face", body, face, at: nowhere }, "#0F7B6C", true, this.lights);
    this.draw();
  }

  private paint(p: Pick, colour: string, wash: boolean, into = this.marks) {
    const s = this.shown[p.body];
    if (!s) return;
    if (p.kind === "corner") {
      this.dot(p.at, colour);
      return;
    }
    const only =
      p.kind === "edge" ? [p.edge] : s.body.edges.flatMap((e, i) => (e.faces.includes(p.face) ? [i] : []));
    const line = edgesGeometry(s.mesh, only);
    // several passes a pixel apart make a thick line everywhere
    for (const [dx, dy] of [
      [0, 0],
      [1, 0],
      [0, 1],
      [-1, 0],
      [0, -1],
    ]) {
      const l = new LineSegments(line, new LineBasicMaterial({ color: colour, depthTest: wash }));
      l.userData.shift = [dx, dy];
      into.add(l);
    }
    if (p.kind === "face" && wash) {
      const material = new MeshLambertMaterial({
        color: colour,
        transparent: true,
        opacity: 0.3,
        side: DoubleSide,
        polygonOffset: true,
        polygonOffsetFactor: -1,
      });
      into.add(new ThreeMesh(facesGeometry(s.mesh, [p.face]), material));
    }
  }

  private dot(at: Vector3, colour: string) {
    const g = new BufferGeometry().setFromPoints([at]);
    const material = new PointsMaterial({ color: colour, size: 9, sizeAttenuation: false, depthTest: false });
    this.marks.add(new Points(g, material));
  }

  /** Look at the solids this way; with ``panes`` each of them looks its own way, and ``view`` is the one in hand. */
  look(view: ViewState, panes: Pane[] | null = null) {
    this.view = view;
    this.panes = panes;
    this.draw();
  }

  draw() {
    cancelAnimationFrame(this.frame);
    this.frame = requestAnimationFrame(() => this.drawNow());
  }

  /** Put the camera where the view says: before drawing, and before anything is picked. */
  private aim(v: ViewState) {
    const { back } = axes(v);
    const far = this.far * 4 + 1000;
    this.camera.left = -v.width / 2 / v.scale;
    this.camera.right = v.width / 2 / v.scale;
    this.camera.top = v.height / 2 / v.scale;
    this.camera.bottom = -v.height / 2 / v.scale;
    this.camera.near = 0.1;
    this.camera.far = 2 * far;
    this.camera.position.copy(v.centre).addScaledVector(back, far);
    this.camera.quaternion.copy(v.turn);
    this.camera.updateProjectionMatrix();
    this.camera.updateMatrixWorld();
  }

  private drawNow() {
    const v = this.view;
    if (!v) return;
    this.renderer.setScissorTest(this.panes !== null);
    if (!this.panes) this.drawView(v);
    for (const p of this.panes ?? []) {
      this.renderer.setScissor(p.left, p.view.height - p.top - p.height, p.width, p.height); // from below
      this.drawView(p.view);
    }
    keepCompiled(this.renderer);
    this.canvas.dataset.bodies = String(this.shown.length);
    this.canvas.dataset.drawn = String(Number(this.canvas.dataset.drawn ?? 0) + 1);
  }

  private drawView(v: ViewState) {
    const { right, up, back } = axes(v);
    this.aim(v);
    this.sun.position
      .copy(v.centre)
      .addScaledVector(back, 10)
      .addScaledVector(up, 9)
      .addScaledVector(right, -5);
    this.sun.target.position.copy(v.centre);
    this.edges.visible = !this.replaced(v);
    for (const s of this.shown) s.outline.seenFrom(back);
    for (const m of [...this.marks.children, ...this.lights.children]) {
      const [dx, dy] = (m.userData.shift as XY | undefined) ?? [0, 0];
      m.position
        .set(0, 0, 0)
        .addScaledVector(right, dx / v.scale)
        .addScaledVector(up, dy / v.scale);
    }
    this.renderer.render(this.scene, this.camera);
  }

  corners(): Vector3[] {
    return this.shown.flatMap(({ mesh }) => {
      const p = mesh.positions;
      const out: Vector3[] = [];
      for (let i = 0; i < p.length; i += 3) out.push(new Vector3(p[i], p[i + 1], p[i + 2]));
      return out;
    });
  }

  /** What lies under a place on the board: see ``pickAll``. */
  pickAll(at: XY, corners = false): Pick[] {
    return this.view ? pickAll(this.seen(this.view), at, corners) : [];
  }

  /** What a window on the board takes: see ``inside``. */
  inside(a: XY, b: XY, touching: boolean): Pick[] {
    return this.view ? inside(this.shown, this.view, a, b, touching) : [];
  }

  private seen(view: ViewState): Seen {
    this.aim(view);
    const through = this.drawn === "lines" || this.drawn === "dashed";
    return { shown: this.shown, view, camera: this.camera, through, gone: (p) => this.section.gone(p) };
  }

  /** The directions of a body's edges from end to end, as unit vectors. */
  edgeWays(body: number): [number, number, number][] {
    const s = this.shown[body];
    if (!s) return [];
    return s.body.edges.map((_, e) => {
      const [from, to] = edgeRange(s.mesh, e);
      const a = new Vector3().fromArray(s.mesh.edgePoints, 3 * from);
      const b = new Vector3().fromArray(s.mesh.edgePoints, 3 * Math.max(from, to - 1));
      return b.sub(a).normalize().toArray();
    });
  }

  bodies(): Body[] {
    return this.shown.map((s) => s.body);
  }
}
