/** What a check says, as colours: bands, thickness by its logarithm, the file of triangles. */
import { describe, expect, test } from "vitest";
import type { Checked } from "../src/api/types";
import { valueSaid } from "../src/inspect/checks/Limits";
import {
  bandColours,
  graduations,
  hex,
  painted,
  readPaint,
  scaled,
  thicknessColour,
} from "../src/inspect/checks/paint";

const checked = (
  check: Checked["check"],
  tones: Checked["bands"][number]["tone"][],
  figures = {},
): Checked => ({
  check,
  passed: true,
  findings: [],
  bands: tones.map((tone, i) => ({ name: `b${i}`, said: `band ${i}`, area: 1, tone })),
  figures,
  paint: "m1",
});

function file(values: number[]): ArrayBuffer {
  const n = values.length / 3;
  const buffer = new ArrayBuffer(8 + 48 * n);
  new Uint8Array(buffer).set(new TextEncoder().encode("SVP1"));
  new DataView(buffer).setUint32(4, n, true);
  new Float32Array(buffer, 8, 9 * n).set(Array.from({ length: 9 * n }, (_, i) => i));
  new Float32Array(buffer, 8 + 36 * n, 3 * n).set(values);
  return buffer;
}

test("the file is read as it was written", () => {
  const found = readPaint(file([1, 2, 3, 4, 5, 6]));
  expect([...found.values]).toEqual([1, 2, 3, 4, 5, 6]);
  expect(found.corners.length).toBe(18);
  expect(found.corners[17]).toBe(17);
});

describe("colours", () => {
  test("set-ups are told apart, one good band is green", () => {
    const several = bandColours(checked("cutters", ["good", "good", "bad"]).bands).map(hex);
    expect(new Set(several).size).toBe(3);
    expect(bandColours(checked("mould", ["bad", "good"]).bands).map(hex)).toEqual(["#b83720", "#6fa894"]);
  });

  test("what is too thin is red, just at the limit it is not", () => {
    expect(hex(thicknessColour(0.9, 1, 5))).toBe("#b83720");
    expect(hex(thicknessColour(0.99999, 1, 5))).toBe("#d08a3a");
    expect(hex(thicknessColour(5, 1, 5))).toBe("#2b3f63");
    expect(hex(thicknessColour(Number.POSITIVE_INFINITY, 1, 5))).toBe("#c4bbaa");
  });

  test("a colour at every corner, none outside 0 to 1; a band that is not known is bare", () => {
    const paint = painted(readPaint(file([0, 1, 7])), checked("mould", ["bad", "good"]), 1);
    expect(paint.colours.length).toBe(9);
    for (const v of paint.colours) {
      expect(v).toBeGreaterThanOrEqual(0);
      expect(v).toBeLessThanOrEqual(1);
    }
    expect(paint.colours[0]).not.toBe(paint.colours[3]);
    const walls = painted(readPaint(file([0.5, 2, Number.NaN])), checked("walls", [], { thickest: 4 }), 1);
    expect(walls.colours[0]).toBeGreaterThan(walls.colours[1] * 5); // red
  });
});

describe("the scale of thickness", () => {
  test("goes by the logarithm, and stays within its ends", () => {
    expect(scaled(1, 1, 100)).toBe(0);
    expect(scaled(10, 1, 100)).toBeCloseTo(0.5, 12);
    expect(scaled(1000, 1, 100)).toBe(1);
    expect(scaled(0.1, 1, 100)).toBe(0);
    expect(scaled(1, 1, 1)).toBe(0);
  });
  test.each([
    [1, 5.1],
    [0.5, 40],
    [2, 2],
    [0, 3],
  ])("graduations from %d to %d rise and are few", (least, thickest) => {
    const marks = graduations(least, thickest);
    expect(marks.length).toBeLessThanOrEqual(7);
    expect([...marks].sort((a, b) => a - b)).toEqual(marks);
  });
});

test("values with their units", () => {
  expect(valueSaid(25.4, "mm", "in")).toBe("1.0000 in");
  expect(valueSaid(3, "mm", "mm")).toBe("3.000 mm");
  expect(valueSaid(645.16, "mm²", "in")).toBe("1.0000 in²");
  expect(valueSaid(0, "°", "mm")).toBe("0°");
  expect(valueSaid(2.5, "× d", "mm")).toBe("2.5 × d");
});
