/** Linear reflectances as the browser's colours, and back (IEC 61966-2-1). */
export type Rgb = [number, number, number];

const encode = (v: number) => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);
const decode = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);

export const toHex = (rgb: readonly number[]) =>
  `#${rgb
    .map((v) =>
      Math.round(255 * Math.min(Math.max(encode(v), 0), 1))
        .toString(16)
        .padStart(2, "0"),
    )
    .join("")}`;
export const fromHex = (hex: string): Rgb => {
  const part = (k: number) => Number(decode(parseInt(hex.slice(k, k + 2), 16) / 255).toFixed(4));
  return [part(1), part(3), part(5)];
};
export const luminous = (rgb: readonly number[]) => 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2];
