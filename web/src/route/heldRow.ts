import { useLayoutEffect, useRef, useState } from "react";
import { useBoard } from "../state/store";

/** A row that is pressed stays where it is on screen, whatever folds above it: the second press of two is meant for it.
 * ``above``: room kept over the first row for that, until the pointer leaves. */
export function useHeldRow() {
  const list = useRef<HTMLOListElement>(null);
  const held = useRef<{ id: string; top: number } | null>(null);
  const [above, setAbove] = useState(0);
  const open = useBoard((s) => s.openStep);
  const row = (id: string) => list.current?.querySelector(`[data-step="${id}"] button[aria-expanded]`);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the open step is what moves rows
  useLayoutEffect(() => {
    const at = held.current && row(held.current.id)?.getBoundingClientRect().top;
    held.current = at === null || at === undefined ? null : held.current;
    if (!held.current || !list.current) return;
    const { top } = held.current;
    list.current.scrollTop += at! - top;
    const left = row(held.current.id)!.getBoundingClientRect().top - top;
    held.current = null;
    if (left < -0.5) setAbove((now) => now - left);
  }, [open]);
  return {
    list,
    above,
    press: (e: React.PointerEvent) => {
      const id = (e.target as HTMLElement).closest<HTMLElement>("[data-step]")?.dataset.step;
      const at = id && row(id);
      if (id && at) held.current = { id, top: at.getBoundingClientRect().top };
    },
    leave: () => setAbove(0),
  };
}
