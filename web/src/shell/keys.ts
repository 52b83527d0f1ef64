/** Two-stroke keys, Esc stepping back one level, undo and redo. Keys that come while something opens wait for it. */
import { useEffect } from "react";
import { travel } from "../document/commands";
import { stopMeasuring } from "../inspect/measure";
import { stopLooking } from "../route/advice";
import { takeChosen } from "../sketch/copyActions";
import { board, clearMessage, showMessage, useBoard } from "../state/store";
import { acceptDraft, dropDraft } from "../steps/draft";
import { action, allActions, deleteChosen } from "./actions";
import { catchUp, waits, watchOpening } from "./earlyKeys";

/** How long the first of two strokes waits for the second, in ms. */
const WAIT = 1500;

let first = "";
let since = 0;

/** Esc steps back one level; with nothing in hand an open sketch stays open: leaving it is a deed of its own. */
function stepBack(again: boolean) {
  const s = board();
  if (s.playing !== null) useBoard.setState({ playing: null });
  else if (s.tool) {
    if (!s.tool.back()) useBoard.setState({ tool: null });
  } else if (s.choosingPlane) useBoard.setState({ choosingPlane: false });
  else if (s.draft) dropDraft();
  else if (s.looking) stopLooking();
  else if (s.message) clearMessage();
  else if (s.measuring) stopMeasuring();
  else if (s.also.length) useBoard.setState({ also: [] });
  else if (s.chosen.length) useBoard.setState({ chosen: [] });
  else if (s.sketch) {
    const finish = action("finish").keys;
    if (s.leaf) useBoard.setState({ leaf: null });
    else if (again) showMessage(`The sketch stays open; ${finish}, or Finish below, leaves it.`);
  } else if (s.picks.length) {
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

/** A key as a stroke: letters are the same with Caps Lock on. */
const plain = (e: KeyboardEvent) =>
  e.key.length === 1 && e.getModifierState("CapsLock") ? e.key.toLowerCase() : e.key;

let escaped = -WAIT; // when Esc was pressed last

let pointed = false; // the pointer was moved over the board since the last key but Tab

let byPointer: EventTarget | null = null; // what the pointer gave the focus: keys are not meant for it

export function pressed(e: KeyboardEvent) {
  const target = e.target as HTMLElement;
  if (waits(e)) return e.preventDefault();
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
  if (e.key === "Escape") {
    stepBack(e.timeStamp - escaped > WAIT); // Esc twice on the way out of a tool asks for nothing
    escaped = e.timeStamp;
  } else if (e.key === "Enter" && board().draft && (target.tagName !== "BUTTON" || target === byPointer)) {
    e.preventDefault();
    acceptDraft(e.shiftKey);
  } else if (e.key === "Enter") board().tool?.enter();
  else if (e.key === "Delete" || e.key === "Backspace") action("delete").when() && action("delete").run();
  else if (e.key === "/") {
    e.preventDefault();
    useBoard.setState({ dialog: "actions" });
  } else if (e.key === "?") useBoard.setState({ dialog: "keys" });
  else if (!started(e) && board().tool?.key(plain(e))) e.preventDefault();
  else if (/^[a-z0-9]$/.test(plain(e)) && stroke(e)) e.preventDefault(); // or the letter lands in a field that opens
}

/** The stroke before this one, if it still waits: by the time of the strokes, so that a busy page drops none. */
function started(e: KeyboardEvent): string {
  return e.timeStamp - since < WAIT ? first : "";
}

/** True if the key did something, or may with the next one. */
function stroke(e: KeyboardEvent): boolean {
  const before = started(e);
  const key = plain(e);
  const pair = before ? `${before} ${key}` : key;
  const hit = allActions().find((a) => a.keys === pair && a.when());
  first = !hit && allActions().some((a) => a.keys.startsWith(`${key} `)) ? key : "";
  since = e.timeStamp;
  hit?.run();
  return Boolean(hit) || first !== "";
}

export function useKeys() {
  useEffect(() => {
    const pointer = (e: Event) => {
      byPointer = (e.target as HTMLElement).closest("button");
      catchUp(); // what was struck before the press goes before it
    };
    // before anything else: Tab is for what lies under the pointer when that was moved last
    const tab = (e: KeyboardEvent) => {
      if (e.key !== "Tab") pointed &&= e.key === "Shift";
      else if (pointed && !document.querySelector("[role=dialog]") && stepOn(e.shiftKey ? -1 : 1)) {
        e.preventDefault();
        e.stopPropagation();
      }
    };
    const moved = (e: PointerEvent) => {
      pointed = (e.target as HTMLElement).closest?.("[data-testid=board]") !== null;
    };
    const opened = watchOpening();
    window.addEventListener("keydown", tab, true);
    window.addEventListener("pointerdown", pointer, true);
    window.addEventListener("pointermove", moved, true);
    window.addEventListener("keydown", pressed);
    return () => {
      opened();
      window.removeEventListener("keydown", tab, true);
      window.removeEventListener("pointerdown", pointer, true);
      window.removeEventListener("pointermove", moved, true);
      window.removeEventListener("keydown", pressed);
    };
  }, []);
}
