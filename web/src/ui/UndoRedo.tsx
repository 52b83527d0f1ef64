/** The two ways through what was done. */
export type Way = "undo" | "redo";

interface UndoRedoProps {
  can: Record<Way, boolean>;
  onTravel: (way: Way) => void;
}

const WAYS = [
  ["undo", "Undo", "Z", "↶", "rounded-r-none border-r-0"],
  ["redo", "Redo", "Y", "↷", "rounded-l-none"],
] as const;

export function UndoRedo({ can, onTravel }: UndoRedoProps) {
  return (
    <div className="flex">
      {WAYS.map(([way, words, key, sign, look]) => (
        <button
          key={way}
          type="button"
          className={`btn px-2 ${look}`}
          disabled={!can[way]}
          onClick={() => onTravel(way)}
          aria-label={words}
          title={`${words} (Ctrl ${key})`}
        >
          {sign}
        </button>
      ))}
    </div>
  );
}
