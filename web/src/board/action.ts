/** What an action is; the deck and the search read lists of them. */
export interface Action {
  id: string;
  words: string;
  keys: string;
  group:
    | "draw"
    | "constrain"
    | "dimension"
    | "build"
    | "refine"
    | "bodies"
    | "view"
    | "check"
    | "edit"
    | "pick";
  glyph?: string;
  when: () => boolean;
  run: () => void;
}
