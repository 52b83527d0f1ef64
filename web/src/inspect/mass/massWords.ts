/** How sizes and what they bring are told. */
import type { Driver, Part } from "../../api/types";
import { GRAMS_PER } from "../../ui/measures";

export type Units = { length: "mm" | "in"; mass: "g" | "kg" | "oz" | "lb" };
type Kind = Driver["size"]["kind"];

export const unitsOf = (part: Part): Units => ({
  length: part.document.unit ?? "mm",
  mass: part.document.mass_unit ?? "g",
});

/** The unit that small masses are told in. */
const small = (units: Units) => (units.mass === "oz" || units.mass === "lb" ? "oz" : "g");

const short = (value: number, figures = 4) => String(Number(value.toPrecision(figures)));

/** A size in the part's own unit, as one would type it. */
export function typed(value: number, kind: Kind, units: Units): string {
  if (kind === "length" && units.length === "in") return String(Number((value / 25.4).toFixed(6)));
  return String(Number(value.toFixed(6)));
}

/** What was typed, in mm or degrees; null where it is no number. */
export function readTyped(text: string, kind: Kind, units: Units): number | null {
  const value = Number(text.trim().replace(",", "."));
  if (!text.trim() || !Number.isFinite(value)) return null;
  return kind === "length" && units.length === "in" ? value * 25.4 : value;
}

export function sizeSaid(value: number, kind: Kind, units: Units): string {
  const text = typed(value, kind, units);
  return kind === "angle" ? `${text}°` : kind === "length" ? `${text} ${units.length}` : text;
}

const signed = (text: string) =>
  text.startsWith("-") ? `−${text.slice(1)}` : text === "0" ? text : `+${text}`;

/** “+3.24 g per mm”. */
export function slopeSaid(slope: number, kind: Kind, units: Units, weighed: boolean): string {
  const per = kind === "length" ? units.length : kind === "angle" ? "degree" : "one more";
  const of = kind === "length" && units.length === "in" ? 25.4 : 1;
  const unit = weighed ? small(units) : units.length === "in" ? "in³" : "mm³";
  const scale = weighed ? GRAMS_PER[unit] : units.length === "in" ? 25.4 ** 3 : 1;
  return `${signed(short((slope * of) / scale))} ${unit} per ${per}`;
}

/** How long a bar is, −1 to 1: the roots of what sizes bring, so that small ones are still to be seen. */
export const barOf = (slope: number, most: number) =>
  most > 0 ? Math.sign(slope) * Math.sqrt(Math.abs(slope) / most) : 0;

/** Places of a mass rule: where it begins and ends, and its graduations. */
export function ruled(
  values: number[],
  wanted = 8,
): { low: number; high: number; marks: number[]; step: number } {
  const [least, most] = [Math.min(...values), Math.max(...values)];
  const room = Math.max((most - least) * 0.12, Math.abs(most) * 1e-3, 1e-6);
  const [low, high] = [least - room, most + room];
  const raw = (high - low) / wanted;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = power * ([1, 2, 5, 10].find((k) => k * power >= raw) ?? 10);
  const marks = [];
  for (let k = Math.ceil(low / step); k * step <= high; k += 1) marks.push(k * step);
  return { low, high, marks, step };
}
