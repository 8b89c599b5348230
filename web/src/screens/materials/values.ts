/** Parameter values between sliders (components) and documents. */
import type { ParameterValue, SheetParameter, SheetSlot } from "@/api/materials";
import type { SlotSource } from "@/preview/sheetScene";

/** Components as a document holds them. */
export function documentValue(parameter: SheetParameter, value: number[]): ParameterValue {
  if (parameter.kind === "switch") return (value[0] ?? 0) > 0.5;
  if (parameter.kind === "choice") return parameter.options[Math.round(value[0] ?? 0)] ?? "";
  return value.length === 1 ? value[0]! : value;
}

const clamp = (value: number) => Math.max(0, Math.min(1, value));
/** A linear component as an 8-bit sRGB number, and back (IEC 61966-2-1); only for the browser's colour field. */
const stored = (linear: number) =>
  Math.round(255 * (linear <= 0.0031308 ? linear * 12.92 : 1.055 * linear ** (1 / 2.4) - 0.055));
const light = (byte: number) => {
  const value = byte / 255;
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
};
export const hexOf = (value: number[]): string =>
  `#${value.map((one) => stored(clamp(one)).toString(16).padStart(2, "0")).join("")}`;
export const colourOf = (hex: string): number[] =>
  [1, 3, 5].map((at) => Number(light(parseInt(hex.slice(at, at + 2), 16)).toFixed(5)));

/** Where a slider begins and ends: soft limits, else hard ones, else around the default. */
export function sliderOf(parameter: SheetParameter): { low: number; high: number; step: number } {
  const first = parameter.default[0] ?? 0;
  const low = parameter.soft_low ?? parameter.low ?? Math.min(0, first * 2);
  const high = parameter.soft_high ?? parameter.high ?? Math.max(1, first * 2);
  return { low, high, step: parameter.step ?? Math.max((high - low) / 200, 1e-4) };
}

/** What a slot reads without a map, as it stands in a texture: a flat normal, or one value. */
export function plainOf(slot: SheetSlot): SlotSource {
  const value = { white: 1, black: 0, mid: 0.5 }[slot.default] ?? 0.5;
  return { url: null, srgb: false, plain: slot.is_normal ? [0.5, 0.5, 1, 1] : [value, value, value, 1] };
}
