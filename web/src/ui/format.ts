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

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

export function dayText(when: string): string {
  return `${Number(when.slice(8, 10))} ${MONTHS[Number(when.slice(5, 7)) - 1]}`;
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
  if (seconds >= 0.4) return `${Number(seconds.toPrecision(3))} s`;
  return `1/${Math.round(1 / seconds)} s`;
}

export function timeLeft(seconds: number | null | undefined): string {
  if (seconds === null || seconds === undefined) return "time not known yet";
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  return `${Math.round(seconds / 60)} min`;
}

export function lux(value: number): string {
  if (value >= 10000) return `${(value / 1000).toFixed(1)} klx`;
  if (value >= 100) return `${Math.round(value)} lx`;
  return `${Number(value.toPrecision(2))} lx`;
}

/** Clock time of a moment, as it is where the reader sits. */
export function clockText(moment: string): string {
  const date = new Date(moment);
  return `${String(date.getHours()).padStart(2, "0")}:${String(date.getMinutes()).padStart(2, "0")}`;
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

/** "3.4 MB" */
export function bytesText(bytes: number): string {
  if (bytes < 1e6) return `${Math.max(0, Math.round(bytes / 1e3))} kB`;
  return bytes < 1e9 ? `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB` : `${(bytes / 1e9).toFixed(1)} GB`;
}

/** "today 14:05", else "3 Nov 2026". */
export function momentText(moment: string): string {
  const date = new Date(moment);
  const today = new Date().toDateString() === date.toDateString();
  return today
    ? `today ${clockText(moment)}`
    : `${date.getDate()} ${MONTHS[date.getMonth()]} ${date.getFullYear()}`;
}
