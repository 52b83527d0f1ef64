/** What lies over everything, what was just said, and keys that wait. */

export interface Offer {
  label: string;
  act: () => void;
}

export interface Message {
  text: string;
  tone: "red" | "proof" | "ink";
  offers: Offer[];
  lights: string[]; // sketch ids to light up
}

export interface ShellSlice {
  dialog: "actions" | "keys" | null; // what lies over everything: the search, or the list of keys
  message: Message | null;
  opening: number; // what is on its way to being open: keys wait for it
}

export const shell: ShellSlice = {
  dialog: null,
  message: null,
  opening: 0,
};
