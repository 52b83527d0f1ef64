import { expect, test } from "vitest";
import { hex } from "../src/inspect/checks/paint";
import { boxCorners, deviationColour, deviationPaint } from "../src/inspect/reference/deviation";
import { offSaid } from "../src/inspect/reference/MeshTab";

test("what is within its limit has one colour, what is out of it a warm or a cold one", () => {
  const good = hex(deviationColour(0, 0.1, 2));
  expect(hex(deviationColour(0.1, 0.1, 2))).toBe(good);
  expect(hex(deviationColour(-0.1, 0.1, 2))).toBe(good);
  const [warm, cold] = [deviationColour(1, 0.1, 2), deviationColour(-1, 0.1, 2)];
  expect(warm[0]).toBeGreaterThan(warm[2]);
  expect(cold[2]).toBeGreaterThan(cold[0]);
  // from the most on it stays the last one, and a limit above the most is no trouble
  expect(deviationColour(9, 0.1, 2)).toEqual(deviationColour(2, 0.1, 2));
  expect(deviationColour(3, 2, 1).every(Number.isFinite)).toBe(true);
});

test("every corner is painted, and the box round them has eight corners", () => {
  const corners = new Float32Array([0, 0, 0, 4, 0, 0, 0, 3, -2]);
  const paint = deviationPaint({ corners, values: new Float32Array([0, 0.5, -0.5]) }, 0.1, 1);
  expect(paint.colours).toHaveLength(9);
  const box = boxCorners(corners);
  expect(new Set(box.map(String)).size).toBe(8);
  expect(box).toContainEqual([4, 3, -2]);
  expect(boxCorners(new Float32Array())).toEqual([]);
});

test("how far off is said with its side, in the part's unit", () => {
  expect(offSaid(0.25, "mm")).toBe("0.250 mm outside");
  expect(offSaid(-25.4, "in")).toBe("1.0000 in inside");
  expect(offSaid(Number.NaN, "mm")).toBe("");
});
