/** Lengths, areas, volumes and masses as they are read, in the part's own units. The core gives mm, mm², mm³ and g. */

const IN = 25.4;
const POWERS = ["", "", "²", "³"];

function measure(value: number, unit: string, power: 1 | 2 | 3, places: number): string {
  const inch = unit === "in";
  return `${(inch ? value / IN ** power : value).toFixed(inch ? places + power : places)} ${unit}${POWERS[power]}`;
}

export const lengthSaid = (mm: number, unit: string, places = 3) => measure(mm, unit, 1, places);
export const areaSaid = (mm2: number, unit: string, places = 3) => measure(mm2, unit, 2, places);
export const volumeSaid = (mm3: number, unit: string, places = 2) => measure(mm3, unit, 3, places);

/** Words in which a radius stands in mm (“hole wall R4.000”). */
export const radiusSaid = (words: string, unit: string) =>
  unit === "in" ? words.replace(/R([\d.]+)/, (_, r) => `R${(Number(r) / IN).toFixed(4)}`) : words;

/** Grams in the units a mass is told in. */
export const GRAMS_PER: Record<string, number> = { g: 1, kg: 1000, oz: 28.349523125, lb: 453.59237 };

export function grams(value: number | null | undefined, unit = "g"): string {
  if (value === null || value === undefined) return "–";
  if (unit !== "g") return `${(value / GRAMS_PER[unit]).toFixed(4)} ${unit}`;
  return `${value.toFixed(value < 1000 ? 2 : 1)} g`;
}

/** What a step adds or takes away: its mass, or while no material is chosen its volume. */
export function changeSaid(
  mass: number | null,
  volume: number | null,
  massUnit: string | undefined,
  unit: string,
): string {
  const change = mass ?? volume;
  if (!change) return "–";
  const sign = change > 0 ? "+" : "−";
  return (
    sign + (mass !== null ? grams(Math.abs(mass), massUnit) : volumeSaid(Math.abs(volume ?? 0), unit, 1))
  );
}
