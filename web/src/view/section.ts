/** The part cut open by a plane: what is in front goes, the cut is capped with section lining, one way for each body. */
import {
  AlwaysStencilFunc,
  BackSide,
  BufferAttribute,
  BufferGeometry,
  Color,
  DecrementWrapStencilOp,
  DoubleSide,
  FrontSide,
  Group,
  IncrementWrapStencilOp,
  LineBasicMaterial,
  LineSegments,
  type Material,
  MeshBasicMaterial,
  NotEqualStencilFunc,
  Plane,
  PlaneGeometry,
  Quaternion,
  ReplaceStencilOp,
  ShaderMaterial,
  type Side,
  Mesh as ThreeMesh,
  Vector3,
} from "three";
import type { XYZ } from "../api/types";
import type { Mesh } from "./mesh";

/** A cut: what lies beyond ``at`` mm along the unit ``normal`` is taken away. */
export interface Cut {
  normal: XYZ;
  at: number;
}

const LINING = [
  { slope: 1, gap: 9 },
  { slope: -1, gap: 9 },
  { slope: 1, gap: 14 },
  { slope: -1, gap: 14 },
  { slope: 1, gap: 6 },
  { slope: -1, gap: 6 },
];

/** Section lining at 45° on the screen (ISO 128-50), turned or spaced otherwise for the next body. */
const lining = (body: number, colour: string) => {
  const { slope, gap } = LINING[body % LINING.length];
  return new ShaderMaterial({
    uniforms: {
      ink: { value: new Color("#1E2A44") },
      ground: { value: new Color(colour).lerp(new Color("#FBF9F3"), 0.75) },
      slope: { value: slope },
      gap: { value: gap },
    },
    vertexShader: "void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }",
    fragmentShader: `uniform vec3 ink;
uniform vec3 ground;
uniform float slope;
uniform float gap;
void main() {
  float line = mod(gl_FragCoord.x - slope * gl_FragCoord.y, gap * 1.4142);
  gl_FragColor = vec4(line < 1.4 ? ink : ground, 1.0);
  #include <colorspace_fragment>
}`,
    side: DoubleSide,
    stencilWrite: true,
    stencilRef: 0,
    stencilFunc: NotEqualStencilFunc,
    stencilFail: ReplaceStencilOp,
    stencilZFail: ReplaceStencilOp,
    stencilZPass: ReplaceStencilOp,
  });
};

/** Counts what a place on the cut lies inside of: back faces up, front faces down. */
const counting = (side: Side, plane: Plane) =>
  new MeshBasicMaterial({
    side,
    depthWrite: false,
    depthTest: false,
    colorWrite: false,
    clippingPlanes: [plane],
    stencilWrite: true,
    stencilFunc: AlwaysStencilFunc,
    ...Object.fromEntries(
      ["stencilFail", "stencilZFail", "stencilZPass"].map((op) => [
        op,
        side === BackSide ? IncrementWrapStencilOp : DecrementWrapStencilOp,
      ]),
    ),
  });

/** Where a plane cuts the triangles of a mesh, as ends of straight pieces. */
export function contour(mesh: Mesh, cut: Cut): number[] {
  const [nx, ny, nz] = cut.normal;
  const p = mesh.positions;
  const height = (v: number) => nx * p[3 * v] + ny * p[3 * v + 1] + nz * p[3 * v + 2] - cut.at;
  const out: number[] = [];
  const t = mesh.triangles;
  for (let k = 0; k < t.length; k += 3) {
    const found: number[][] = [];
    for (let i = 0; i < 3; i++) {
      const [a, b] = [t[k + i], t[k + ((i + 1) % 3)]];
      const [ha, hb] = [height(a), height(b)];
      if (ha < 0 === hb < 0) continue;
      const s = ha / (ha - hb);
      found.push([0, 1, 2].map((c) => p[3 * a + c] + s * (p[3 * b + c] - p[3 * a + c])));
    }
    if (found.length === 2) out.push(...found[0], ...found[1]);
  }
  return out;
}

export class Section {
  readonly group = new Group();
  readonly plane = new Plane();
  cut: Cut | null = null;
  private own: BufferGeometry[] = []; // made for the cut, not the bodies'

  /** The planes that whatever is drawn is clipped by. */
  planes(): Plane[] {
    return this.cut ? [this.plane] : [];
  }

  /** Whether a place is cut away. */
  gone(at: Vector3, within = 1e-6): boolean {
    return this.cut !== null && this.plane.distanceToPoint(at) < -within;
  }

  /** Cut these bodies anew. ``far``: mm, more than the part's size. */
  set(cut: Cut | null, bodies: { mesh: Mesh; faces: BufferGeometry; colour: string }[], far: number) {
    this.cut = cut;
    for (const child of this.group.children) ((child as ThreeMesh).material as Material).dispose();
    for (const geometry of this.own.splice(0)) geometry.dispose();
    this.group.clear();
    if (!cut) return;
    const n = new Vector3(...cut.normal);
    this.plane.set(n.clone().negate(), cut.at);
    bodies.forEach((b, i) => {
      for (const side of [BackSide, FrontSide] as const) {
        const count = new ThreeMesh(b.faces, counting(side, this.plane));
        count.renderOrder = 2 * i + 1;
        this.group.add(count);
      }
      const cap = new ThreeMesh(new PlaneGeometry(4 * far, 4 * far), lining(i, b.colour));
      cap.position.copy(n).multiplyScalar(cut.at);
      cap.quaternion.copy(new Quaternion().setFromUnitVectors(new Vector3(0, 0, 1), n));
      cap.renderOrder = 2 * i + 1.5;
      cap.onAfterRender = (renderer) => renderer.clearStencil();
      const line = new BufferGeometry();
      line.setAttribute("position", new BufferAttribute(new Float32Array(contour(b.mesh, cut)), 3));
      const edge = new LineSegments(line, new LineBasicMaterial({ color: "#1E2A44" }));
      edge.renderOrder = 2 * bodies.length + 2;
      this.own.push(cap.geometry, line);
      this.group.add(cap, edge);
    });
  }
}
