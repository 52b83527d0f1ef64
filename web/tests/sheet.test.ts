/** The sheet without a page: where things stand on a turned and zoomed page, which text a press means. */
import { describe, expect, test } from "vitest";
import type { SheetReading, XY } from "../src/api/types";
import { viewSaid } from "../src/inspect/lineWords";
import { centred, fitted, NEAREST, turned, turnedBox, unturned, zoomed } from "../src/sheet/place";
import { ownerOf, textAt } from "../src/sheet/readSheet";
import { overIds } from "../src/sheet/WorkingOut";
import { useBoard } from "../src/state/store";

const TURNS = [0, 90, 180, 270];

describe("places on a page", () => {
  test("a turn and back is where it was", () => {
    for (const turn of TURNS)
      for (const at of [
        [0.2, 0.7],
        [0, 1],
      ] as XY[])
        unturned(turn, turned(turn, at)).forEach((v, i) => {
          expect(v).toBeCloseTo(at[i], 12);
        });
  });

  test("turned clockwise, the top left corner comes to the top right", () => {
    expect(turned(90, [0, 0])).toEqual([1, 0]);
    expect(turned(180, [0, 0])).toEqual([1, 1]);
    expect(turned(270, [0, 0])).toEqual([0, 1]);
  });

  test("a page fits its frame whole, whichever way it is turned", () => {
    for (const turn of TURNS) {
      const size = fitted([800, 500], turn, [300, 300]);
      expect(Math.max(...size)).toBeCloseTo(300, 9);
      expect(size[0] / size[1]).toBeCloseTo(turn % 180 ? 5 / 8 : 8 / 5, 9);
      const look = centred(size, [300, 300]);
      expect(look.x * 2 + size[0]).toBeCloseTo(300, 9);
    }
  });

  test("zooming keeps the place under the pointer, and ends at a fit in the middle", () => {
    const [size, frame] = [
      [300, 200],
      [300, 260],
    ] as [XY, XY];
    let look = centred(size, frame);
    const pointer: XY = [120, 90];
    const under = (l: typeof look) => [
      (pointer[0] - l.x) / (size[0] * l.k),
      (pointer[1] - l.y) / (size[1] * l.k),
    ];
    const before = under(look);
    for (const by of [2, 1.5, 0.7]) {
      look = zoomed(look, by, pointer, size, frame);
      under(look).forEach((v, i) => {
        expect(v).toBeCloseTo(before[i], 9);
      });
    }
    expect(zoomed(look, 1e9, pointer, size, frame).k).toBe(NEAREST);
    expect(zoomed(look, 1e-9, pointer, size, frame)).toEqual(centred(size, frame));
  });

  test("a box stays a box when the page is turned", () => {
    for (const turn of TURNS) {
      const [[a, b], [c, d]] = turnedBox(turn, [0.1, 0.2, 0.4, 0.3]);
      expect(c).toBeGreaterThan(a);
      expect(d).toBeGreaterThan(b);
      expect((c - a) * (d - b)).toBeCloseTo(0.03, 9);
    }
  });
});

const said = (...texts: [string, [number, number, number, number]][]): SheetReading => ({
  sizes: texts.map(([text, box]) => ({
    text,
    box,
    turn: 0,
    at: [box[2] + 0.02, box[1]],
    ends: [],
    way: null,
    kind: "linear",
    said: "",
    callout: null,
  })),
  notes: [],
  general: "",
  scale: 1,
  mm: null,
  unit: null,
  views: [],
  guessed: false,
});

describe("which text a press means", () => {
  const reading = said(["12", [0.1, 0.1, 0.14, 0.12]], ["34", [0.16, 0.1, 0.2, 0.12]]);
  const page: XY = [800, 500];

  test("the one it lies on, or the nearer one beside it", () => {
    expect(textAt(reading, [0.12, 0.11], page)?.text).toBe("12");
    expect(textAt(reading, [0.143, 0.11], page)?.text).toBe("12");
    expect(textAt(reading, [0.157, 0.11], page)?.text).toBe("34");
  });

  test("none far from all", () => {
    expect(textAt(reading, [0.12, 0.2], page)).toBeNull();
  });
});

describe("beside a part's callouts", () => {
  const callout = (id: string, number: number, at: XY) => ({ id, number, text: "12", page: 0, at });
  const part = (callouts: unknown[]) =>
    useBoard.setState({ part: { document: { callouts }, callouts: {} } as never, sheetPage: 0 });

  test("a text has the balloon that was put where it offered one", () => {
    const [one] = said(["12", [0.1, 0.1, 0.14, 0.12]]).sizes;
    part([]);
    expect(ownerOf(one)).toBeNull();
    part([callout("b4", 1, one.at)]);
    expect(ownerOf(one)).toBe("b4");
    useBoard.setState({ sheetPage: 1 });
    expect(ownerOf(one)).toBeNull();
  });

  test("what was told is gone with its callout", () => {
    const [one] = said(["12", [0.1, 0.1, 0.14, 0.12]]).sizes;
    part([callout("b2", 7, [0.9, 0.9])]);
    expect(ownerOf({ ...one, callout: "b2" })).toBe("b2");
    part([]);
    expect(ownerOf({ ...one, callout: "b2" })).toBeNull();
  });

  test("arithmetic over balloons' numbers is kept over their ids", () => {
    part([callout("b2", 7, [0, 0]), callout("b9", 12, [0, 0])]);
    expect(overIds("[7] − 2 × [12]")).toBe("b2 - 2 * b9");
    expect(overIds("[7] - [8]")).toBeNull();
  });
});

describe("a view in words", () => {
  const whole = { side: "front", turn: 0, name: "", cut: null, partly: false } as const;
  test("a section says where it is cut, and every plane of one in steps", () => {
    expect(viewSaid(whole, "mm")).not.toContain("cut");
    expect(viewSaid({ ...whole, name: "A–A", cut: 14, cuts: [] }, "mm")).toContain(
      "section A–A, cut at y 14.000 mm",
    );
    const steps = { ...whole, name: "B–B", cut: 12, cuts: [12, 28] };
    expect(viewSaid(steps, "mm")).toContain("section B–B, cut in steps at y 12.000 mm, 28.000 mm");
    const inclined = { ...whole, side: null, name: "C–C", inclined: 31.608 };
    expect(viewSaid(inclined, "mm")).toBe("section C–C, cut along a plane at 31.6°");
  });
});
