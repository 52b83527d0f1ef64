/** How views of a sheet and shares of its lines are told. */

export const SEEN_FROM: Record<string, string> = {
  front: "seen from the front",
  top: "seen from above",
  right: "seen from the right",
  left: "seen from the left",
  under: "seen from under",
  back: "seen from behind",
};

/** A share as it stands, never rounded up to all. */
export const percent = (share: number) => `${(Math.floor(share * 1000) / 10).toFixed(1)} %`;
