/** What a check paints on the part: triangles of its own, coloured at their corners, in place of the faces. They are not
 * lit: a colour is the one of the legend wherever it is. */
import {
  BufferAttribute,
  BufferGeometry,
  Group,
  MeshBasicMaterial,
  type OrthographicCamera,
  Raycaster,
  Mesh as ThreeMesh,
  Vector2,
} from "three";
import { acceleratedRaycast, MeshBVH } from "three-mesh-bvh";
import type { XY, XYZ } from "../api/types";
import { emptied } from "./shapes";

/** ``corners`` of triangles, three after three, in mm; a colour at each, red, green and blue from 0 to 1. */
export interface Paint {
  corners: Float32Array;
  colours: Float32Array;
}

export class Painted {
  readonly group = new Group();

  set(paint: Paint | null) {
    emptied(this.group);
    if (!paint) return;
    const shape = new BufferGeometry();
    shape.setAttribute("position", new BufferAttribute(paint.corners, 3));
    shape.setAttribute("color", new BufferAttribute(paint.colours, 3));
    const material = new MeshBasicMaterial({
      vertexColors: true,
      polygonOffset: true,
      polygonOffsetFactor: 1,
      polygonOffsetUnits: 1,
    });
    const mesh = new ThreeMesh(shape, material);
    mesh.raycast = acceleratedRaycast;
    this.group.add(mesh);
  }

  /** What is painted under a place of the canvas: the number of a corner, and where; null where there is nothing. */
  at([x, y]: XY, [width, height]: XY, camera: OrthographicCamera): { corner: number; place: XYZ } | null {
    const mesh = this.group.children[0] as ThreeMesh | undefined;
    if (!mesh) return null;
    // in the order in which they are: a corner's number stays what it is
    mesh.geometry.boundsTree ??= new MeshBVH(mesh.geometry, { indirect: true });
    const ray = new Raycaster();
    ray.setFromCamera(new Vector2((x / width) * 2 - 1, 1 - (y / height) * 2), camera);
    const [hit] = ray.intersectObject(mesh);
    return hit?.face ? { corner: hit.face.a, place: hit.point.toArray() } : null;
  }
}
