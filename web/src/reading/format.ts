const thin = "\u202f";

const formats = new Map<string, Intl.NumberFormat>();

function format(decimals: number, notation: "standard" | "engineering"): Intl.NumberFormat {
  const name = `${decimals} ${notation}`;
  const known = formats.get(name);
  if (known) return known;
  const made = new Intl.NumberFormat("en", {
    notation,
    useGrouping: "min2",
    minimumFractionDigits: decimals,
    maximumFractionDigits: decimals,
  });
  formats.set(name, made);
  return made;
}

/** Our own signs in place of the language's. */
const signs: Partial<Record<Intl.NumberFormatPartTypes, string>> = {
  group: thin,
  minusSign: "\u2212",
  exponentMinusSign: "\u2212",
  exponentSeparator: "e",
};

/** A number with so many significant digits, grouped by thin spaces, with a true minus sign. */
export function figure(value: number | null | undefined, digits = 4): string {
  if (value === null || value === undefined || !Number.isFinite(value)) return "no value";
  if (value === 0) return "0";
  const power = Math.floor(Math.log10(Math.abs(value)));
  const far = power >= 6 || power < -4;
  const decimals = Math.max(0, digits - 1 - (far ? ((power % 3) + 3) % 3 : power));
  return format(Math.min(decimals, 12), far ? "engineering" : "standard")
    .formatToParts(value)
    .map((part) => signs[part.type] ?? part.value)
    .join("");
}

/** How many digits tell values between two apart; what most values need is enough where they differ by as much as they are. */
export function digitsBetween(low: number | null | undefined, high: number | null | undefined, usual = 4): number {
  if (low == null || high == null || !(high > low)) return usual;
  const apart = Math.ceil(Math.log10(Math.max(Math.abs(low), Math.abs(high)) / (high - low)) - 1e-9);
  return Math.min(Math.max(usual, apart + usual - 2), 15);
}

export const percent = (share: number | null | undefined, digits = 3) =>
  share === null || share === undefined ? "no value" : `${figure(100 * share, digits)}${thin}%`;

/** Reads a number as an analyst may type it: decimal comma, true minus, spaces. */
export function parse(text: string): number | null {
  const cleaned = text
    .replace(/[\s\u202f\u00a0]/g, "")
    .replace("\u2212", "-")
    .replace(",", ".");
  if (cleaned === "" || !Number.isFinite(Number(cleaned))) return null;
  return Number(cleaned);
}

/** Round limits and steps: the nearest of 1, 2, 2.5, 5 times a power of ten at or above. */
export function roundUp(value: number): number {
  if (!(value > 0)) return 0;
  const power = 10 ** Math.floor(Math.log10(value));
  for (const m of [1, 1.2, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10]) if (m * power >= value * (1 - 1e-9)) return m * power;
  return 10 * power;
}
