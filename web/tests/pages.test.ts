import { expect, test, vi } from "vitest";
import { allActions } from "../src/shell/actions";
import { goBy } from "../src/state/goTo";
import { useBoard } from "../src/state/store";

test("every page of the part is found by the search and has keys that nothing else has", () => {
  const went = vi.fn();
  goBy(went);
  useBoard.setState({ part: { id: "p1", document: { steps: [] }, role: "viewer" } as never });
  const pages = allActions().filter((a) => a.id.startsWith("page "));
  expect(pages.length).toBe(10);
  const keys = allActions()
    .map((a) => a.keys)
    .filter(Boolean);
  for (const page of pages) {
    expect(keys.filter((k) => k === page.keys)).toHaveLength(1);
    expect(keys).not.toContain(page.keys[0]); // a key of its own would go first
    expect(page.when()).toBe(true);
    page.run();
  }
  expect(went).toHaveBeenCalledWith("/parts/p1/drawing");
  expect(went).toHaveBeenCalledWith("/parts/p1/inspection?tab=meshes");
});
