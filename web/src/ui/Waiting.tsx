/** What is being done, for how long so far, and how to stop it. */
import { useEffect, useState } from "react";

const SOON = 1; // seconds: what takes less is over before it is read

export function Waiting({ words, stop }: { words: string; stop?: () => void }) {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    const began = Date.now();
    const every = setInterval(() => setSeconds(Math.floor((Date.now() - began) / 1000)), 250);
    return () => clearInterval(every);
  }, []);
  return (
    <span className="inline-flex items-center gap-2">
      {words}
      {seconds >= SOON ? `, ${seconds} s` : ""} …
      {stop && seconds >= SOON && (
        <button
          type="button"
          className="btn px-2 py-0 text-ink"
          onClick={(e) => {
            e.stopPropagation();
            stop();
          }}
        >
          Stop
        </button>
      )}
    </span>
  );
}
