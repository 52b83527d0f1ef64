/** Two-stroke keys, Esc stepping back one level, undo and redo. */
import { useEffect } from "react";
import { action, allActions, deleteChosen } from "./actions";
import { stopLooking } from "./advising";
import { travel } from "./change";
import { takeChosen } from "./copyActions";
import { acceptDraft, dropDraft } from "./drafting";
import { stopMeasuring } from "./lookingAt";
import { closeSketch } from "./sketching";
import { startAgain } from "./starting";
import { board, hush, useBoard } from "./store";

/** How long the first of two strokes waits for the second, in ms. */
const WAIT = 1500;

let first = "";
let since = 0;

function stepBack() {
  const s = board();
  if (s.playing !== null) useBoard.setState({ playing: null });
  else if (s.tool) {
    if (!s.tool.back()) useBoard.setState({ tool: null });
  } else if (s.choosingPlane) useBoard.setState({ choosingPlane: false });
  else if (s.draft) dropDraft();
  else if (s.looking) stopLooking();
  else if (s.message) hush();
  else if (s.measuring) stopMeasuring();
  else if (s.chosen.length) useBoard.setState({ chosen: [] });
  else if (s.sketch) closeSketch();
  else if (s.picks.length) {
    useBoard.setState({ picks: [] });
    s.scene?.mark(null, []);
  } else useBoard.setState({ openStep: null, callout: null, leaf: null });
}

/** Go on to the next thing under the pointer; false when there is no choice there. */
function stepOn(by: number): boolean {
  const s = board();
  if (s.tool?.typed.length) return false;
  const count = s.sketch ? s.sketchUnder.length : s.solidUnder.length;
  if (count < 2) return false;
  const stepped = (s.stepped + by + count) % count;
  if (s.sketch) useBoard.setState({ stepped, under: s.sketchUnder[stepped] });
  else {
    useBoard.setState({ stepped, hover: s.solidUnder[stepped] });
    s.scene?.mark(s.solidUnder[stepped], s.picks);
  }
  return true;
}

/** A letter for a tool that asks for a name, wherever the focus is: what is typed at once is not lost. */
function spelt(e: KeyboardEvent): boolean {
  const { tool } = board();
  const name = tool?.typed[0];
  if (!tool || name?.unit !== "letters" || e.altKey || e.ctrlKey || e.metaKey) return false;
  const back = e.key === "Backspace" && name.text !== "";
  if (!back && (e.key.length !== 1 || (e.key === " " && !name.text))) return false;
  tool.type(name.key, back ? name.text.slice(0, -1) : name.text + e.key);
  e.preventDefault();
  return true;
}

function pressed(e: KeyboardEvent) {
  const target = e.target as HTMLElement;
  const ticked = ["checkbox", "radio"].includes((target as HTMLInputElement).type);
  const typing = ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName) && !ticked;
  if ((e.ctrlKey || e.metaKey) && !typing) {
    const key = e.key.toLowerCase();
    if (board().sketch && "cxv".includes(key)) {
      if (key === "v") action("put-in").when() && action("put-in").run();
      else if (action("take").when() && takeChosen() && key === "x") deleteChosen();
      e.preventDefault();
      return;
    }
    if (key === "z" || key === "y") {
      e.preventDefault();
      travel(key === "y" || e.shiftKey ? "redo" : "undo");
    }
    return;
  }
  if (!typing && spelt(e)) return;
  if (typing || e.altKey || document.querySelector("[role=dialog]")) return;
  if (e.key === "Tab" && target === document.body && stepOn(e.shiftKey ? -1 : 1)) e.preventDefault();
  else if (e.key === "Escape") stepBack();
  else if (e.key === "Enter" && board().draft && target.tagName !== "BUTTON") acceptDraft(e.shiftKey);
  else if (e.key === "Enter") board().tool?.enter();
  else if (e.key === "Delete" || e.key === "Backspace") action("delete").when() && action("delete").run();
  else if (e.key === "/") {
    e.preventDefault();
    window.dispatchEvent(new Event("sulvak-search"));
  } else if (e.key === "?") window.dispatchEvent(new Event("sulvak-keys"));
  else if (!started(e) && board().tool?.key(e.key)) e.preventDefault();
  else if (/^[a-z0-9]$/.test(e.key) && stroke(e)) e.preventDefault(); // or the letter lands in a field that opens
}

/** The stroke before this one, if it still waits: by the time of the strokes, so that a busy page drops none. */
function started(e: KeyboardEvent): string {
  return e.timeStamp - since < WAIT ? first : "";
}

/** True if the key did something, or may with the next one. */
function stroke(e: KeyboardEvent): boolean {
  const before = started(e);
  const pair = before ? `${before} ${e.key}` : e.key;
  const hit = allActions().find((a) => a.keys === pair && a.when());
  first = !hit && allActions().some((a) => a.keys.startsWith(`${e.key} `)) ? e.key : "";
  since = e.timeStamp;
  hit?.run();
  return Boolean(hit) || first !== "";
}

export function useKeys() {
  useEffect(() => {
    const again = (e: Event) => startAgain((e as CustomEvent<string>).detail);
    window.addEventListener("keydown", pressed);
    window.addEventListener("sulvak-again", again);
    return () => {
      window.removeEventListener("keydown", pressed);
      window.removeEventListener("sulvak-again", again);
    };
  }, []);
}
