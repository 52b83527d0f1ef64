/** Something drawn over the part that can be pressed, by pointer or by key, and tells its name on the reading line. */
import { type ReactNode, useEffect } from "react";
import { useBoard } from "../state/store";

interface Props {
  name: string;
  wanted: boolean; // whether it can be pressed just now; else it is only seen
  take: () => void;
  children: ReactNode;
}

export function Pressed({ name, wanted, take, children }: Props) {
  const say = (guide: string | null) => useBoard.setState({ guide });
  // taken off the board under the pointer, it hears no pointer leave
  useEffect(
    () => () => {
      if (useBoard.getState().guide === name) useBoard.setState({ guide: null });
    },
    [name],
  );
  return (
    <g
      role={wanted ? "button" : undefined}
      tabIndex={wanted ? 0 : undefined}
      aria-label={name}
      pointerEvents={wanted ? "auto" : "none"}
      style={{ cursor: wanted ? "pointer" : "default" }}
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        e.stopPropagation();
        e.preventDefault(); // a press leaves the keys where they are
      }}
      onPointerEnter={() => say(name)}
      onPointerLeave={() => say(null)}
      onClick={() => {
        say(null);
        take();
      }}
      onKeyDown={(e) => {
        if (e.key !== " ") return;
        e.preventDefault();
        take();
      }}
    >
      {children}
    </g>
  );
}
