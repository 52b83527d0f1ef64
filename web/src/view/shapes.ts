/** Meshes as three.js draws them: fetched once, as geometry of faces and edges, in washes and hatching. */
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  type Group,
  MeshLambertMaterial,
  ShaderMaterial,
  type Mesh as ThreeMesh,
} from "three";
import type { Body } from "../api/types";
import { edgeRange, type Mesh, readMesh } from "./mesh";

/** Edges where faces run on into each other: drawn lighter, as a drawing does. */
export const isSmooth = (body: Body, e: number) => body.edges[e].corner === "smooth";

export const washing = (color: string, opacity: number) =>
  new MeshLambertMaterial({ color, transparent: true, opacity, depthTest: false, side: DoubleSide });

/** Section lining at 45° on the screen, as a drawing hatches what is cut away. */
export const hatching = (color: string) =>
  new ShaderMaterial({
    uniforms: { ink: { value: new Color(color) } },
    vertexShader: "void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }",
    fragmentShader: `uniform vec3 ink;
void main() {
  float line = mod(gl_FragCoord.x - gl_FragCoord.y, 9.0);
  gl_FragColor = vec4(ink, line < 1.8 ? 0.75 : 0.07);
  #include <colorspace_fragment>
}`,
    transparent: true,
    depthTest: false,
    side: DoubleSide,
  });
/** Take all out of a group and give back what the graphics processor holds of it; what ``stays`` is used again. */
export function emptied(group: Group, stays: Set<BufferGeometry> = new Set()) {
  for (const child of group.children) {
    const { geometry, material } = child as ThreeMesh;
    if (geometry && !stays.has(geometry)) geometry.dispose();
    for (const m of [material ?? []].flat()) m.dispose();
  }
  group.clear();
}

const meshes = new Map<string, Promise<Mesh>>();

export function fetchMesh(part: string, key: string): Promise<Mesh> {
  let found = meshes.get(key);
  if (!found) {
    found = fetch(`/api/parts/${part}/mesh/${key}`).then(async (r) => {
      if (!r.ok) throw new Error(`mesh ${r.status}`);
      return readMesh(await r.arrayBuffer());
    });
    found.catch(() => meshes.delete(key));
    meshes.set(key, found);
    if (meshes.size > 60) meshes.delete(meshes.keys().next().value as string);
  }
  return found;
}

export function facesGeometry(mesh: Mesh, only?: number[]): BufferGeometry {
  const g = new BufferGeometry();
  g.setAttribute("position", new BufferAttribute(mesh.positions, 3));
  g.setAttribute("normal", new BufferAttribute(mesh.normals, 3));
  if (!only) g.setIndex(new BufferAttribute(mesh.triangles, 1));
  else {
    const parts = only.map((f) =>
      mesh.triangles.subarray(
        3 * mesh.faceStart[f],
        3 * (mesh.faceStart[f + 1] ?? mesh.triangles.length / 3),
      ),
    );
    g.setIndex(new BufferAttribute(Uint32Array.from(parts.flatMap((p) => [...p])), 1));
  }
  return g;
}

export function edgesGeometry(mesh: Mesh, only?: number[]): BufferGeometry {
  const list = only ?? mesh.edgeStart.keys();
  const out: number[] = [];
  for (const e of list) {
    const [from, to] = edgeRange(mesh, e);
    for (let i = from; i + 1 < to; i++) {
      out.push(...mesh.edgePoints.subarray(3 * i, 3 * i + 6));
    }
  }
  const g = new BufferGeometry();
  g.setAttribute("position", new BufferAttribute(new Float32Array(out), 3));
  return g;
}
