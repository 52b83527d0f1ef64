/** Words of the mass page: sizes and slopes in the part's units, the graduations of its rule. */
import { describe, expect, test } from "vitest";
import {
  barOf,
  readTyped,
  ruled,
  sizeSaid,
  slopeSaid,
  typed,
  type Units,
} from "../src/inspect/mass/massWords";
import { grams } from "../src/ui/measures";

const mm: Units = { length: "mm", mass: "g" };
const inch: Units = { length: "in", mass: "lb" };

describe("what a size brings", () => {
  test.each([
    [3.24, "length", mm, true, "+3.24 g per mm"],
    [-0.0580612, "angle", mm, true, "−0.05806 g per degree"],
    [1, "length", inch, true, "+0.896 oz per in"],
    [1000, "length", mm, false, "+1000 mm³ per mm"],
    [16387.064, "number", inch, false, "+1 in³ per one more"],
    [0, "length", mm, true, "0 g per mm"],
  ] as const)("%d of a %s", (slope, kind, units, weighed, said) => {
    expect(slopeSaid(slope, kind, units, weighed)).toBe(said);
  });

  test("bars keep their side, and small ones are still seen", () => {
    expect(barOf(4, 4)).toBe(1);
    expect(barOf(-1, 4)).toBe(-0.5);
    expect(barOf(0, 0)).toBe(0);
  });
});

describe("sizes typed", () => {
  test.each([
    [25.4, "length", inch, "1"],
    [12.7, "length", mm, "12.7"],
    [30, "angle", inch, "30"],
  ] as const)("%d as a %s and back", (value, kind, units, text) => {
    expect(typed(value, kind, units)).toBe(text);
    expect(readTyped(text, kind, units)).toBeCloseTo(value, 9);
  });
  test("a comma is a decimal sign; what is no number is not read", () => {
    expect(readTyped(" 1,5 ", "length", mm)).toBe(1.5);
    for (const text of ["", "  ", "x", "1.2.3", "1e999"]) expect(readTyped(text, "length", mm)).toBeNull();
  });
  test("said with their unit", () => {
    expect(sizeSaid(12.7, "length", inch)).toBe("0.5 in");
    expect(sizeSaid(40, "angle", mm)).toBe("40°");
    expect(sizeSaid(3, "number", mm)).toBe("3");
  });
});

describe("the rule", () => {
  test.each([[[57.3, 64.3]], [[0.0121, 0.0124]], [[1999, 2001, 2000]], [[5, 5]]])(
    "is graduated round %j",
    (values) => {
      const { low, high, marks, step } = ruled(values);
      expect(low).toBeLessThan(Math.min(...values));
      expect(high).toBeGreaterThan(Math.max(...values));
      expect(marks.length).toBeGreaterThanOrEqual(3);
      expect(marks.length).toBeLessThanOrEqual(10);
      for (const m of marks) {
        expect(m).toBeGreaterThanOrEqual(low);
        expect(m).toBeLessThanOrEqual(high);
        expect(Math.abs(m / step - Math.round(m / step))).toBeLessThan(1e-6);
      }
    },
  );
});

test("masses in every unit", () => {
  expect(grams(453.59237, "lb")).toBe("1.0000 lb");
  expect(grams(28.349523125, "oz")).toBe("1.0000 oz");
  expect(grams(1500, "kg")).toBe("1.5000 kg");
  expect(grams(60.8167)).toBe("60.82 g");
});
