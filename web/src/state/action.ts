/** What an action is; the deck and the search read lists of them. */
export interface Action {
  id: string;
  words: string;
  also?: string; // other words it is searched by
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
    | "pick"
    | "body"
    | "part data";
  glyph?: string;
  when: () => boolean;
  run: () => void;
}
