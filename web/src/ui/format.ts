/** Numbers and times as people read them. */

export function hourText(hours: number): string {
  const minutes = Math.round(hours * 60) % 1440;
  return `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
}

export function hourOf(when: string): number {
  const [, time] = when.split("T");
  const [h, m, s] = time.split(":").map(Number);
  return h + m / 60 + (s || 0) / 3600;
}

export function withHour(when: string, hours: number): string {
  const minutes = Math.min(Math.round(hours * 60), 1439);
  return `${when.slice(0, 10)}T${hourText(minutes / 60)}:00`;
}

const ENGLISH = "en-GB";
const DAY = new Intl.DateTimeFormat(ENGLISH, { day: "numeric", month: "short", timeZone: "UTC" });
const DATE = new Intl.DateTimeFormat(ENGLISH, { day: "numeric", month: "short", year: "numeric" });
const CLOCK = new Intl.DateTimeFormat(ENGLISH, { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
const TWO_DIGITS = new Intl.NumberFormat(ENGLISH, { maximumSignificantDigits: 2, useGrouping: false });
const THREE_DIGITS = new Intl.NumberFormat(ENGLISH, { maximumSignificantDigits: 3, useGrouping: false });
const TENTHS = new Intl.NumberFormat(ENGLISH, { minimumFractionDigits: 1, maximumFractionDigits: 1 });
const WHOLE = new Intl.NumberFormat(ENGLISH, { maximumFractionDigits: 0, useGrouping: false });

/** "21 Jun" */
export function dayText(when: string): string {
  return DAY.format(Date.parse(`${when.slice(0, 10)}T00:00:00Z`));
}

export function dayOfYear(day: string): number {
  return Math.round(
    (Date.parse(`${day}T00:00:00Z`) - Date.parse(`${day.slice(0, 4)}-01-01T00:00:00Z`)) / 864e5,
  );
}

export function dayFromIndex(year: string, index: number): string {
  return new Date(Date.parse(`${year}-01-01T00:00:00Z`) + index * 864e5).toISOString().slice(0, 10);
}

export function shutterText(seconds: number): string {
  if (seconds >= 0.4) return `${THREE_DIGITS.format(seconds)} s`;
  return `1/${Math.round(1 / seconds)} s`;
}

export function timeLeft(seconds: number | null | undefined): string {
  if (seconds === null || seconds === undefined) return "time not known yet";
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  return `${Math.round(seconds / 60)} min`;
}

export function lux(value: number): string {
  if (value >= 10000) return `${TENTHS.format(value / 1000)} klx`;
  return `${(value >= 100 ? WHOLE : TWO_DIGITS).format(value)} lx`;
}

/** Clock time of a moment, as it is where the reader sits. */
export function clockText(moment: string): string {
  return CLOCK.format(new Date(moment));
}

export const clamp = (v: number, low: number, high: number) => Math.min(Math.max(v, low), high);

/** A key for a new part: the name in small letters, with a number where it is taken. */
export function freeKey(name: string, taken: Set<string>): string {
  const base =
    name
      .normalize("NFKD")
      .toLowerCase()
      .replace(/[\u0300-\u036f]/g, "")
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-+|-+$/g, "")
      .slice(0, 48) || "part";
  let key = base;
  for (let n = 2; taken.has(key); n += 1) key = `${base}-${n}`;
  return key;
}

const COUNT = new Intl.NumberFormat(ENGLISH);

/** "1,234,567" */
export const countText = (count: number) => COUNT.format(count);

/** "3.4 MB" */
export function bytesText(bytes: number): string {
  if (bytes < 1e6) return `${WHOLE.format(Math.max(0, bytes / 1e3))} kB`;
  if (bytes < 1e9) return `${(bytes < 1e7 ? TENTHS : WHOLE).format(bytes / 1e6)} MB`;
  return `${TENTHS.format(bytes / 1e9)} GB`;
}

/** "today 14:05", else "3 Nov 2026". */
export function momentText(moment: string): string {
  const date = new Date(moment);
  const today = new Date().toDateString() === date.toDateString();
  return today ? `today ${clockText(moment)}` : DATE.format(date);
}
