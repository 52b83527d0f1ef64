/** Esc leaves what is going on, before anything else hears it. */
import { useEffect } from "react";

/** ``leave``: the same function at every call, so that it is listened for once. */
export function useEscape(going: boolean, leave: () => void) {
  useEffect(() => {
    if (!going) return;
    const heard = (e: KeyboardEvent) => {
      if (e.key !== "Escape") return;
      leave();
      e.stopPropagation();
    };
    window.addEventListener("keydown", heard, true);
    return () => window.removeEventListener("keydown", heard, true);
  }, [going, leave]);
}
