const thin = "\u202f";

/** A number with so many significant digits, grouped by thin spaces, with a true minus sign. */
export function figure(value: number | null | undefined, digits = 4): string {
  if (value === null || value === undefined || !Number.isFinite(value)) return "no value";
  if (value === 0) return "0";
  const size = Math.abs(value);
  if (size >= 1e6 || size < 1e-4) {
    const exponent = 3 * Math.floor(Math.log10(size) / 3);
    return `${plain(value / 10 ** exponent, digits)}e${exponent < 0 ? "\u2212" : ""}${Math.abs(exponent)}`;
  }
  return plain(value, digits);
}

function plain(value: number, digits: number): string {
  const size = Math.abs(value);
  const decimals = Math.max(0, digits - 1 - Math.floor(Math.log10(size)));
  const [whole, part] = size.toFixed(Math.min(decimals, 12)).split(".");
  const grouped = whole!.length > 4 ? whole!.replace(/\B(?=(\d{3})+$)/g, thin) : whole!;
  return `${value < 0 ? "\u2212" : ""}${grouped}${part ? `.${part}` : ""}`;
}

export const percent = (share: number | null | undefined, digits = 3) =>
  share === null || share === undefined ? "no value" : `${figure(100 * share, digits)}${thin}%`;

/** Reads a number as an analyst may type it: decimal comma, true minus, spaces. */
export function parse(text: string): number | null {
  const cleaned = text
    .replace(/[\s\u202f\u00a0]/g, "")
    .replace("\u2212", "-")
    .replace(",", ".");
  if (cleaned === "" || Number.isNaN(Number(cleaned))) return null;
  return Number(cleaned);
}

/** Round limits and steps: the nearest of 1, 2, 2.5, 5 times a power of ten at or above. */
export function roundUp(value: number): number {
  if (!(value > 0)) return 0;
  const power = 10 ** Math.floor(Math.log10(value));
  for (const m of [1, 1.2, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10]) if (m * power >= value * (1 - 1e-9)) return m * power;
  return 10 * power;
}

/** Three numbers as an analyst may type them: "1, 0, 2.5" or "1; 0; 2,5"; null where they are not three. */
export function parsePoint(text: string): [number, number, number] | null {
  const pieces = text.includes(";") ? text.split(";") : text.trim().split(/\s*,\s*|\s+/);
  const numbers = pieces.map(parse);
  if (numbers.length !== 3 || numbers.some((n) => n === null)) return null;
  return numbers as [number, number, number];
}
