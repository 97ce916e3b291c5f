/** One forgiving reading of what people type: numbers, hours, dates, shutters. Null where it cannot be meant. */

const SCALES: Record<string, Record<string, number>> = {
  m: { m: 1, cm: 0.01, mm: 0.001 },
  mm: { mm: 1, cm: 10, m: 1000 },
  lm: { lm: 1, klm: 1000 },
  K: { k: 1 },
  "°": { "°": 1, deg: 1, degrees: 1 },
  stops: { stops: 1, stop: 1, ev: 1 },
};

/** "47,5", "47.5 m", "1 200", "1'200 lm", "120 cm" where metres are wanted; "2,700" means thousands where 2.7 cannot be. */
export function readNumber(typed: string, unit = "", min = -Infinity, max = Infinity): number | null {
  const text = typed
    .trim()
    .replace(/[−–]/g, "-")
    .replace(/[\s'’_]/g, "");
  const match = /^([-+]?(?:\d[\d.,]*|[.,]\d+)(?:e[-+]?\d+)?)(.*)$/i.exec(text);
  if (!match) return null;
  const word = match[2].toLowerCase();
  const known = SCALES[unit] ?? { [unit.replace(/\s/g, "").toLowerCase()]: 1 };
  const scale = word === "" ? 1 : known[word];
  if (scale === undefined) return null;
  const inRange = (v: number) => v * scale >= min && v * scale <= max;
  const readings = numbersIn(match[1]).filter(Number.isFinite);
  const meant = readings.find(inRange) ?? readings[0];
  return meant === undefined ? null : Number((meant * scale).toPrecision(12));
}

/** What digits with dots and commas may stand for, the likeliest first. */
function numbersIn(text: string): number[] {
  const marks = text.replace(/[^.,]/g, "");
  if (marks.length === 0) return [Number(text)];
  const groups = /^[-+]?\d{1,3}([.,]\d{3})+$/.test(text);
  if (marks.length === 1) {
    const decimal = Number(text.replace(",", "."));
    return groups ? [decimal, Number(text.replace(/[.,]/, ""))] : [decimal];
  }
  const last = marks[marks.length - 1];
  const asDecimal = new RegExp(`^[-+]?\\d{1,3}([${last === "," ? "." : ","}]\\d{3})+[${last}]\\d+$`);
  if (asDecimal.test(text)) {
    const other = last === "," ? /\./g : /,/g;
    return [Number(text.replace(other, "").replace(",", "."))];
  }
  return groups && new Set(marks).size === 1 ? [Number(text.replace(/[.,]/g, ""))] : [];
}

/** Hours after midnight from "17", "7:30", "7.30", "0730", "7h30", "7,5", "5pm", "5:15 p.m.", "noon". */
export function readHour(typed: string): number | null {
  const text = typed.trim().toLowerCase().replace(/\s+/g, "");
  if (text === "noon" || text === "midday") return 12;
  if (text === "midnight") return 0;
  const match = /^(\d{1,2})(?:[:.h](\d{2}))?(?::\d{2})?(?:h|uhr|o'clock)?(am|pm|a\.m\.|p\.m\.|a|p)?$/.exec(
    text,
  );
  const packed = /^(\d{1,2})(\d{2})(am|pm|a\.m\.|p\.m\.)?$/.exec(text);
  const decimal = /^(\d{1,2})[.,](\d)$/.exec(text);
  const found = packed ?? match;
  let hours: number;
  if (decimal) hours = Number(`${decimal[1]}.${decimal[2]}`);
  else if (found) {
    let whole = Number(found[1]);
    const minutes = Number(found[2] ?? 0);
    const half = found[3]?.[0];
    if (minutes > 59 || (half && (whole < 1 || whole > 12))) return null;
    if (half) whole = (whole % 12) + (half === "p" ? 12 : 0);
    hours = whole + minutes / 60;
  } else return null;
  return hours >= 0 && hours < 24 ? hours : null;
}

const MONTHS = "january february march april may june july august september october november december".split(
  " ",
);

/** A day as 2026-06-21 from that, "21.6.2026", "21/6", "6/21/2026", "21 June", "June 21, 2026", "20260621". */
export function readDate(typed: string, year: string): string | null {
  const text = typed
    .trim()
    .toLowerCase()
    .replace(/(\d)(st|nd|rd|th)\b/g, "$1");
  const packed = /^(\d{4})(\d{2})(\d{2})$/.exec(text);
  const parts = packed ? packed.slice(1) : text.split(/[\s.,/-]+/).filter(Boolean);
  if (parts.length < 2 || parts.length > 3) return null;
  const named = parts.findIndex((p) => /^[a-z]{3,}$/.test(p) && MONTHS.some((m) => m.startsWith(p)));
  let day: number, month: number, y: string;
  if (named >= 0) {
    month = MONTHS.findIndex((m) => m.startsWith(parts[named])) + 1;
    const rest = parts.filter((_, k) => k !== named);
    if (!rest.every((p) => /^\d{1,4}$/.test(p))) return null;
    const long = rest.find((p) => p.length === 4);
    const short = rest.filter((p) => p !== long);
    if (short.length < 1) return null;
    [day, y] = [Number(short[0]), long ?? (short[1] ? full(short[1]) : year)];
  } else {
    if (!parts.every((p) => /^\d{1,4}$/.test(p))) return null;
    if (parts[0].length === 4) {
      if (parts.length !== 3) return null;
      [y, month, day] = [parts[0], Number(parts[1]), Number(parts[2])];
    } else {
      [day, month] = [Number(parts[0]), Number(parts[1])];
      if (month > 12 && day <= 12) [day, month] = [month, day];
      y = parts[2] ? full(parts[2]) : year;
    }
  }
  const made = new Date(Date.UTC(2000, 0, 1));
  made.setUTCFullYear(Number(y), month - 1, day);
  if (made.getUTCMonth() !== month - 1 || made.getUTCDate() !== day || !/^\d{4}$/.test(y)) return null;
  const two = (v: number) => String(v).padStart(2, "0");
  return `${y}-${two(month)}-${two(day)}`;
}

const full = (year: string) => (year.length === 2 ? `20${year}` : year);

/** Seconds from "1/60", "1/60 s", "0,5 s", "2s", "2 min"; a bare whole number above 1 stays seconds. */
export function readShutter(typed: string): number | null {
  const text = typed.trim().toLowerCase().replace(/\s+/g, "");
  const fraction = /^(\d+(?:[.,]\d+)?)\/(\d+(?:[.,]\d+)?)(?:s|sec)?$/.exec(text);
  const plain = (v: string) => Number(v.replace(",", "."));
  if (fraction)
    return plain(fraction[2]) > 0 && plain(fraction[1]) > 0 ? plain(fraction[1]) / plain(fraction[2]) : null;
  const single = /^(\d+(?:[.,]\d+)?|[.,]\d+)(s|sec|min|")?$/.exec(text);
  if (!single) return null;
  const value = plain(single[1]) * (single[2] === "min" ? 60 : 1);
  return value > 0 ? value : null;
}

/** How much longer than high, or higher than long, a picture may be. */
const MOST_ASPECT = 8;

/** Width to height as whole numbers, from "16:9", "3 x 2", "4/5", "2,39 : 1", "1.5". Null where it is no format. */
export function readFormat(typed: string): [number, number] | null {
  const match = /^(\d+(?:[.,]\d+)?)\s*(?:(?::|x|×|\/|to|by)\s*(\d+(?:[.,]\d+)?))?$/i.exec(typed.trim());
  if (!match) return null;
  const [across, down] = [match[1], match[2] ?? "1"].map((v) => Number(v.replace(",", ".")));
  let [w, h] = [Math.round(across * 1000), Math.round(down * 1000)];
  if (!w || !h) return null;
  const by = divisor(w, h);
  [w, h] = [w / by, h / by];
  const within = w <= 10_000 && h <= 10_000 && w <= MOST_ASPECT * h && h <= MOST_ASPECT * w;
  return within ? [w, h] : null;
}

/** "3:2"; "2.39:1" where whole numbers would not be read at a glance. */
export function formatText([w, h]: readonly [number, number]): string {
  const by = divisor(w, h);
  if (Math.max(w, h) / by <= 32) return `${w / by}:${h / by}`;
  return w >= h ? `${Number((w / h).toFixed(3))}:1` : `1:${Number((h / w).toFixed(3))}`;
}

const divisor = (a: number, b: number): number => (b ? divisor(b, a % b) : a);
