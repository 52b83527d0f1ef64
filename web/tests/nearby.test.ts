/** What is looked for near the pointer is never less than what looking at every entity would find. */
import { expect, test } from "vitest";
import type { Entity, XY } from "../src/api/types";
import { type Affine, apply } from "../src/geometry/affine";
import { nearestOn, walk } from "../src/geometry/curves";
import { dist } from "../src/geometry/geometry";
import { nearby } from "../src/geometry/nearby";
import { allUnder, snap } from "../src/geometry/snap";

let seed = 7;
const random = (low: number, high: number) => {
  seed = (seed * 16807) % 2147483647;
  return low + ((high - low) * seed) / 2147483647;
};
const place = (): XY => [random(-100, 100), random(-100, 100)];
const beside = ([x, y]: XY, reach: number): XY => [x + random(-reach, reach), y + random(-reach, reach)];

function entity(i: number): Entity {
  const c = place();
  const kinds = [
    { kind: "line", id: `l${i}`, p: c, q: beside(c, 30) },
    { kind: "circle", id: `c${i}`, c, r: random(0.5, 12) },
    { kind: "arc", id: `a${i}`, c, r: 6, p: [c[0] + 6, c[1]], q: [c[0], c[1] + 6] },
    { kind: "ellipse", id: `e${i}`, c, m: [c[0] + 9, c[1] + 2], n: [c[0] - 1, c[1] + 4.5] },
    {
      kind: "spline",
      id: `s${i}`,
      points: [c, beside(c, 20), beside(c, 20), beside(c, 20)],
      form: "through",
    },
    { kind: "point", id: `p${i}`, at: c },
  ];
  return { construction: false, ...kinds[i % kinds.length] } as unknown as Entity;
}

const entities = [...Array(600).keys()].map(entity);
const affines: Affine[] = [
  [4, 0, 0, -4, 400, 300],
  [1.2, 0.9, -2, 0.4, 350, 280], // seen from an angle
  [3, 1, -2.9, -0.98, 400, 300], // nearly edge on
];

test.each(affines)("no entity that comes within reach is left out", (...m) => {
  const trails = entities.map((e) => walk(e, 24).map((p) => apply(m, p)));
  for (let k = 0; k < 30; k++) {
    const at = apply(m, place());
    const found = new Set(nearby(entities, at, m, 24).map((e) => e.id));
    const near = entities.filter((_, i) => {
      const trail = trails[i];
      return (trail.length > 1 ? dist(nearestOn(trail, at), at) : dist(trail[0], at)) < 24;
    });
    expect(near.filter((e) => !found.has(e.id))).toEqual([]);
  }
});

test("it is fewer than all, in their order", () => {
  const found = nearby(entities, [400, 300], affines[0], 24);
  expect(found.length).toBeLessThan(60);
  const places = found.map((e) => entities.indexOf(e));
  expect(places).toEqual([...places].sort((a, b) => a - b));
});

test("a crowd far away changes nothing in what is caught and pointed at", () => {
  const own = entities.slice(0, 40);
  const crowd = entities.map((e, i) => {
    const far = (p: XY): XY => [p[0] + 5000, p[1] + 5000];
    const moved = Object.entries(e).map(([k, v]) => {
      if (k === "points") return [k, (v as XY[]).map(far)];
      return [k, Array.isArray(v) ? far(v as XY) : v];
    });
    return { ...Object.fromEntries(moved), id: `${e.id}${1000 + i}` } as Entity;
  });
  for (let k = 0; k < 40; k++) {
    const [m, at] = [affines[k % 2], apply(affines[k % 2], place())];
    const asked = { m, from: null, held: false };
    expect(snap(at, { ...asked, entities: [...own, ...crowd] })).toEqual(
      snap(at, { ...asked, entities: own }),
    );
    expect(allUnder(at, [...own, ...crowd], m)).toEqual(allUnder(at, own, m));
  }
});
