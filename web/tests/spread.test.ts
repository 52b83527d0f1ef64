/** Balloons round a part: none on another, all within the frame, the same each time. */
import { expect, test } from "vitest";
import { spread } from "../src/inspect/spread";

type XY = [number, number];

test("balloons of places close together stand apart, in the frame, and as before", () => {
  const at = Array.from({ length: 16 }, (_, i): XY => [200 + (i % 4) * 6, 150 + Math.floor(i / 4) * 5]);
  const found = spread(at, [440, 400]);
  expect(found).toHaveLength(16);
  found.forEach(([x, y], i) => {
    expect(x).toBeGreaterThanOrEqual(13);
    expect(x).toBeLessThanOrEqual(427);
    expect(y).toBeGreaterThanOrEqual(13);
    expect(y).toBeLessThanOrEqual(387);
    for (const [u, v] of found.slice(0, i)) expect(Math.hypot(x - u, y - v)).toBeGreaterThanOrEqual(23);
  });
  expect(spread(at, [440, 400])).toEqual(found);
});

test("one alone stands beside its place, none has none, and the frame holds it", () => {
  expect(spread([], [100, 100])).toEqual([]);
  const [[x, y]] = spread([[50, 50]], [100, 100]);
  expect(Math.hypot(x - 50, y - 50)).toBeCloseTo(30);
  const [corner] = spread([[0, 0]], [100, 100]);
  expect(Math.min(...corner)).toBeGreaterThanOrEqual(13);
});
